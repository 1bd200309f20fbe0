#include "hollow_probe/truth/doubt.hpp"
#include "hollow_probe/geometry/tolerances.hpp"

namespace hollow_probe {
namespace {

/// Every length of intent that a truth is held against, a little more or less.
Intent changed(Intent intent, double by) {
    intent.touch = std::max(intent.touch + by, 0.5 * intent.touch);
    for (double* length :
         {&intent.lowest_step, &intent.tallest_step, &intent.ahead_step, &intent.ahead_wall,
          &intent.ahead_drop, &intent.deepest_drop, &intent.ahead_ledge, &intent.ledge_between[1]})
        *length = std::max(*length + by, 0.0);
    intent.ledge_between[0] -= by;
    if (intent.tread > 0.0) intent.tread = std::max(intent.tread - by, 0.5 * intent.tread);
    return intent;
}

}  // namespace

template <int D>
bool in_doubt(Claim claim, const Level<D>& level, const TruthQuestion<D>& question, const Intent& intent,
              bool now) {
    const auto on = [&](const TruthQuestion<D>& asked, const Intent& by) {
        return answer<D>(claim, level, asked, by, 0.0, Margins::left_out).on;
    };
    TruthQuestion<D> here = question;
    here.known = nullptr;
    const double size = level.bounds().size().norm();
    const double shift =
        std::max(tolerance::accuracy * size, 2.0 * noise_of(question.body.shape, level).distance);
    // To the corners of the box that far around: whatever plane parts the answers and cuts the ball of that
    // radius parts a corner from the middle, too.
    for (int corner = 0; corner < 1 << D; ++corner) {
        TruthQuestion<D> there = here;
        for (int axis = 0; axis < D; ++axis)
            there.body.anchor[axis] += (corner >> axis & 1) != 0 ? shift : -shift;
        if (on(there, intent) != now) return true;
    }
    return on(here, changed(intent, shift)) != now || on(here, changed(intent, -shift)) != now;
}

template bool in_doubt<2>(Claim, const Level<2>&, const TruthQuestion<2>&, const Intent&, bool);
template bool in_doubt<3>(Claim, const Level<3>&, const TruthQuestion<3>&, const Intent&, bool);

}  // namespace hollow_probe

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

/// How far in_doubt() shifts a body along each axis, and by how much it changes lengths.
template <int D>
double shift_of(const HullView<D>& body, const Level<D>& level) {
    return std::max(tolerance::accuracy * level.bounds().size().norm(), 2.0 * noise_of(body, level).distance);
}

}  // namespace

/// Shifted by s, a gap changes by no more than s over the cosine between the normal and the direction, and
/// the normal, which is that between two points a radius apart, by no more than that over the radius.
template <int D>
bool beyond_doubt(Claim claim, const Level<D>& level, const TruthQuestion<D>& question,
                  const Intent& intent) {
    constexpr double steepest_told = 80.0;  // degrees: the cosine is more than a sixth
    constexpr double shifts_of_gap = 32.0;
    constexpr double degrees_turned = 0.01;
    const PlacedBody<D>& body = question.body;
    const bool is_ground = claim == Claim::ground;
    const double widest = is_ground ? intent.steepest_footing_degrees : intent.ceiling_within_degrees;
    const double spare = shifts_of_gap * shift_of(body.shape, level);
    const double radius = body.shape.radius;
    const bool is_told = (is_ground || claim == Claim::ceiling) && widest < steepest_told &&
                         radius > 2.0 * intent.touch && spare < 1e-5 * radius && spare < 0.1 * intent.touch &&
                         !body.front_faces;
    if (!is_told) return false;
    const Vec<D> direction = is_ground ? -level.up() : level.up();
    const double reach = intent.touch + spare;
    const auto& core = body.shape.points;
    const bool in_one_point =
        core.size() == 1 || (core.size() == 2 && std::abs((core[1] - core[0]).normalized().dot(direction)) >
                                                     1.0 - tolerance::direction);
    Sweep<D> sweep = sweep_of<D>(body.shape, body.anchor, direction, reach);
    sweep.radius += spare;
    sweep.layers = body.meets;
    bool surely = false;   // something counts, and will
    bool perhaps = false;  // something may
    level.tree().along(sweep, [&](std::uint32_t piece, double limit) {
        if (surely || !level.on_layers(piece, body.of)) return limit;
        const auto contact = approach<D>(body, direction, reach, reach, level, piece);
        if (!contact) return limit;
        const double angle = degrees(angle_between<D>(contact->normal, -direction));
        if (angle > widest + degrees_turned) return limit;
        perhaps = true;
        if (angle >= widest - degrees_turned || std::abs(contact->gap) >= intent.touch - spare) return limit;
        // Of a piece among others it is for its neighbours to say whether it is met.
        const bool alone = level.solids()[level.solid_of(piece)].piece_count == 1;
        const PlacedBody<D> touching = body.moved(std::max(contact->gap, 0.0) * direction);
        surely = alone || (in_one_point && !level.is_one_way(piece) &&
                           on_surface<D>(level, touching, *contact, spare));
        return limit;
    });
    return surely || !perhaps;
}

template <int D>
bool in_doubt(Claim claim, const Level<D>& level, const TruthQuestion<D>& question, const Intent& intent,
              bool now) {
    const auto on = [&](const TruthQuestion<D>& asked, const Intent& by) {
        return answer<D>(claim, level, asked, by, 0.0, Margins::left_out).on;
    };
    if (beyond_doubt<D>(claim, level, question, intent)) return false;
    TruthQuestion<D> here = question;
    here.known = nullptr;
    const double shift = shift_of(question.body.shape, level);
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

template bool beyond_doubt<2>(Claim, const Level<2>&, const TruthQuestion<2>&, const Intent&);
template bool beyond_doubt<3>(Claim, const Level<3>&, const TruthQuestion<3>&, const Intent&);
template bool in_doubt<2>(Claim, const Level<2>&, const TruthQuestion<2>&, const Intent&, bool);
template bool in_doubt<3>(Claim, const Level<3>&, const TruthQuestion<3>&, const Intent&, bool);

}  // namespace hollow_probe

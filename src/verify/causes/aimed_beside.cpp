// The probe, moved sideways or aimed another way, senses it; or feels what it does for that.
#include <array>
#include <cmath>

#include "hollow_probe/geometry/tolerances.hpp"
#include "verify/causes/rule.hpp"

namespace hollow_probe {
namespace {

/// A probe that looks along another direction than its signal is about.
template <int D>
void aimed_otherwise(CauseSearch<D>& search) {
    const Probe<D>& probe = search.probe();
    const Aim* const aim = aim_of(probe);
    if (!is_toward(search.claim()) || aim == nullptr || std::abs((*along_of(probe))[1]) > tolerance::angle)
        return;
    static constexpr std::array aims = {Aim::fixed, Aim::drive, Aim::velocity};
    static constexpr std::array words = {"forward", "drive", "velocity"};
    const auto meant = static_cast<std::size_t>(search.mounted().toward[search.signal_number()]);
    if (aims[meant] != *aim)
        search.offer(CauseKind::aimed_beside, SetChoice{search.of_probe("along"), std::string(words[meant])},
                     rank::aimed_otherwise);
}

/// How far the probe looked at, which meets nothing, can surely be moved `aside`, by a vector in body
/// coordinates, and still meet nothing: a part of that, told by the boxes of what it sees.
template <int D>
double meets_nothing_up_to(const CauseSearch<D>& search, const Vec<D>& aside) {
    const MountedProbe<D>& probe = search.mounted_probe();
    const auto number = static_cast<std::size_t>(search.probe_number());
    const bool hangs_on_more = search.remembers() || !probe.followed.empty() || probe.meets_own_body ||
                               !followers_of<D>(search.rig(), number).empty();
    if (search.reading().met || !search.is_line() || hangs_on_more) return 0.0;
    const Vec<D> by = body_frame<D>(search.facing().heading, search.level().up()) * aside;
    for (const double part : {0.9, 0.45}) {
        Bounds<D> box = probe.bounds().moved(search.pose().anchor);
        box.grow(box.moved(part * by));
        bool meets = false;
        search.level().tree().overlapping(box.inflated(tolerance::accuracy * search.unit()), probe.sees,
                                          [&](std::uint32_t) {
                                              meets = true;
                                              return false;
                                          });
        if (!meets) return part;
    }
    return 0.0;
}

/// Towards the point the body really meets.
template <int D>
void beside(CauseSearch<D>& search) {
    constexpr double past = 1.01;  // the probe must land on the solid, not on its very edge
    const Vec<D> aside = search.aside_to_truth();
    const double distance = aside.norm();
    if (distance <= tolerance::accuracy * search.unit()) return;
    const auto moved = [&](double amount) {
        return ProvenCause<D>{CauseKind::aimed_beside,
                              MoveStart<D>{search.probe_number(), aside * (amount / distance), amount},
                              amount, amount / search.unit()};
    };
    // On the rim of a solid, its very edge is where the probe begins to sense it.
    const double futile = distance * meets_nothing_up_to<D>(search, aside);
    search.offer_least(past * distance, moved, distance, futile);
}

/// A ray below the middle of a rounded sole, which stands on its rim as well.
template <int D>
void one_line_only(CauseSearch<D>& search) {
    const RoundedHull<D>& stance = search.stance();
    const LineProbe<D>& ray = search.probe().line();
    const bool is_plain = !ray.shape && ray.spread.kind == SpreadKind::none && ray.aim == Aim::fixed &&
                          ray.along == -Vec<D>::unit(1) && !ray.reach_grounded && ray.reach_per_speed == 0.0;
    if (!is_plain || search.claim() != Claim::ground || stance.points().size() > 2 || stance.radius() <= 0.0)
        return;
    const double by = search.truth().piece ? search.aside_to_truth().norm() : 0.0;
    search.offer(CauseKind::aimed_beside, AsSole{search.probe_number(), search.facing().stance},
                 rank::another_probe, by);
}

template <int D>
void aimed(CauseSearch<D>& search) {
    if (search.too_much()) {
        aimed_otherwise(search);
        return;
    }
    if (!search.too_little() || search.is_latched_off()) return;
    aimed_otherwise(search);
    if (search.truth().piece && (search.is_line() || search.is_zone())) beside(search);
    if (search.is_line()) one_line_only(search);
}

std::string why_aimed_beside(const CauseTold& t) {
    if (t.cause.parameter == "along") return t.who + " looks another way than the signal is about";
    if (t.cause.parameter == "kind")
        return t.who + " is but one line, and the body stands on the rim of its sole as well";
    return t.who + " is aimed beside " + (t.claim == Claim::ground ? "the footing" : "it") + " by up to " +
           t.by;
}

}  // namespace

template <int D>
CauseRule<D> aimed_beside() {
    return {CauseKind::aimed_beside, why_aimed_beside, aimed<D>};
}

template CauseRule<2> aimed_beside<2>();
template CauseRule<3> aimed_beside<3>();

}  // namespace hollow_probe

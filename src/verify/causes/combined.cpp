// Faults that no single change cures: two or three at once.
#include <algorithm>

#include "hollow_probe/geometry/tolerances.hpp"
#include "verify/causes/rule.hpp"

namespace hollow_probe {

/// What could make a probe sense that does not.
template <int D>
void CauseSearch<D>::bolder(std::vector<ProvenCause<D>>& list) const {
    const MountedProbe<D>& looked = mounted_probe();
    for (std::size_t layer = 0; layer < level_.layers().size(); ++layer) {
        const LayerSet bit = LayerSet{1} << layer;
        if ((mounted_.meets & bit) != 0 && (looked.sees & bit) == 0)
            list.push_back({CauseKind::layer_unseen, ListName{probe_, "sees", level_.layers()[layer], true}});
    }
    if (looked.is_line()) {
        list.push_back(with_reach(CauseKind::reach_short, looked.reach + unit_, 0.0));
        if (looked.take == Take::first)
            list.push_back({CauseKind::first_hit_shadowed,
                            SetChoice{of_probe("take"), static_cast<std::int64_t>(Take::all)}});
        const LineProbe<D>& line = probe().line();
        const IfInside other = line.if_inside == IfInside::report ? IfInside::ignore : IfInside::report;
        list.push_back(
            {CauseKind::starts_inside, SetChoice{of_probe("if_inside"), static_cast<std::int64_t>(other)}});
        const double now = line.accept_most_degrees;
        const double most =
            claim_ == Claim::ground ? std::max(intent().steepest_footing_degrees, now) : 180.0;
        if (most > now)
            list.push_back(
                {CauseKind::angle_refused, SetNumber{of_probe("accept.angle", 1), most}, most - now});
        if (line.accept_least_degrees > 0.0)
            list.push_back({CauseKind::angle_refused, SetNumber{of_probe("accept.angle", 0), 0.0},
                            line.accept_least_degrees});
    }
    if (!truth_.piece || is_contact() || is_shift()) return;
    constexpr double past = 1.01;  // on the solid, not on its very edge
    const Vec<D> aside = past * aside_to_truth();
    const double amount = aside.norm();
    if (amount > tolerance::accuracy * unit_)
        list.push_back({CauseKind::aimed_beside, MoveStart<D>{probe_, aside, amount}, amount});
}

/// What could make a probe pass over what it senses.
template <int D>
void CauseSearch<D>::more_timid(std::vector<ProvenCause<D>>& list) const {
    constexpr double nearly_all = 0.999;
    if (reading_.own_body) list.push_back({CauseKind::own_body, SetChoice{of_probe("ignores_body"), true}});
    if (hit_level()) {
        const std::uint32_t layer = level_.layer_of(reading_.hit.piece);
        if ((mounted_.meets >> layer & 1U) == 0)
            list.push_back({CauseKind::layer_wrong, ListName{probe_, "sees", level_.layers()[layer], false}});
        const double steepest = intent().steepest_footing_degrees;
        if (is_line() && claim_ == Claim::ground && hit_angle() > steepest &&
            probe().line().accept_most_degrees > steepest)
            list.push_back({CauseKind::too_steep, SetNumber{of_probe("accept.angle", 1), steepest},
                            hit_angle() - steepest});
        const double shorter = reading_.hit.distance - 1e-10 * unit_;
        if (is_line() && shorter > 0.0) list.push_back(with_reach(CauseKind::reach_long, shorter, 0.0));
    }
    if (const RoundedHull<D>* const shape = shape_of(probe())) {
        double room = 0.0;
        for (int axis = 0; axis < D; ++axis) {
            if (axis != 1) room = std::max(room, 0.5 * shape->bounds().size()[axis]);
        }
        list.push_back({CauseKind::wider_than_body, Narrow{probe_, nearly_all * room}, nearly_all * room});
    }
    if (is_zone() && probe().zone().keeps != Keeps::set)
        list.push_back({CauseKind::held, SetChoice{of_probe("keeps"), std::int64_t{0}}});
}

template <int D>
void CauseSearch<D>::look_boldly_at(std::size_t index, std::vector<ProvenCause<D>>& list) {
    const MountedProbe<D>& looked = mounted_.probes[index];
    if (!looked.mounted || !looked.aimed) return;
    probe_ = static_cast<int>(index);
    reading_ = readings_[index];
    // Which way it should go cannot be told from the signal alone, which is wrong both ways.
    const bool is_wanted_off = (mounted_.signals[signal_].none.readings & mounted_.bits_about(index)).any();
    should_be_on_ = missed_ != is_wanted_off;
    if (should_be_on_ == reading_.on) return;
    if (should_be_on_) {
        bolder(list);
    } else {
        more_timid(list);
    }
}

template <int D>
std::vector<ProvenCause<D>> CauseSearch<D>::bold() {
    constexpr std::size_t most = 20;
    std::vector<ProvenCause<D>> list;
    for (std::size_t i = 0; i < mounted_.probes.size(); ++i) look_boldly_at(i, list);
    probe_ = -1;
    const Signal& given = signal();
    if (remembers()) {
        if (rig().reads == Reads::before_move) list.push_back({CauseKind::stale, ReadAfter{}});
        if (missed_ && given.settle > 0.0)
            list.push_back({CauseKind::settling, SetNumber{of_signal("settle"), 0.0}, given.settle});
        if (missed_ && !given.mute_after.event.empty())
            list.push_back({CauseKind::muted, SetNumber{of_signal("mute_after.seconds"), 0.0},
                            given.mute_after.seconds});
        if (!missed_ && given.grace > 0.0)
            list.push_back({CauseKind::held, SetNumber{of_signal("grace"), 0.0}, given.grace});
    }
    if (list.size() > most) list.resize(most);
    return list;
}

/// Each amount drawn back as far as the verdict stays right, one after the other.
template <int D>
ProvenCause<D> CauseSearch<D>::least_of(ProvenCause<D> combined) const {
    const auto shrink = [&](auto part) {
        const auto unchanged = unchanged_of<D>(part(combined).change, rig());
        if (!unchanged) return;
        double low = 0.0;
        double high = 1.0;
        const double bold = *amount_of<D>(part(combined).change);
        const auto at = [&](double fraction) {
            ProvenCause<D> tried = combined;
            set_amount<D>(part(tried), *unchanged + fraction * (bold - *unchanged), *unchanged);
            return tried;
        };
        while (high - low > 1e-9) {
            const double middle = 0.5 * (low + high);
            (middle > 0.0 && flips(at(middle)) ? high : low) = middle;
        }
        combined = at(high);
    };
    shrink([](ProvenCause<D>& c) -> ProvenCause<D>& { return c; });
    for (std::size_t i = 0; i < combined.with.size(); ++i)
        shrink([i](ProvenCause<D>& c) -> ProvenCause<D>& { return c.with[i]; });
    return combined;
}

template <int D>
std::optional<ProvenCause<D>> CauseSearch<D>::combined() {
    const std::vector<ProvenCause<D>> list = bold();
    // Two changes to one thing are one.
    const auto alike = [](const ProvenCause<D>& a, const ProvenCause<D>& b) {
        return exclude_each_other<D>(a.change, b.change);
    };
    for (std::size_t a = 0; a < list.size(); ++a) {
        for (std::size_t b = a + 1; b < list.size(); ++b) {
            if (alike(list[a], list[b])) continue;
            ProvenCause<D> pair = list[a];
            pair.with = {list[b]};
            if (flips(pair)) return least_of(pair);
        }
    }
    for (std::size_t a = 0; a < list.size(); ++a) {
        for (std::size_t b = a + 1; b < list.size(); ++b) {
            for (std::size_t c = b + 1; c < list.size(); ++c) {
                if (alike(list[a], list[b]) || alike(list[b], list[c]) || alike(list[a], list[c])) continue;
                ProvenCause<D> three = list[a];
                three.with = {list[b], list[c]};
                if (flips(three)) return least_of(three);
            }
        }
    }
    return std::nullopt;
}

template std::vector<ProvenCause<2>> CauseSearch<2>::bold();
template std::vector<ProvenCause<3>> CauseSearch<3>::bold();
template std::optional<ProvenCause<2>> CauseSearch<2>::combined();
template std::optional<ProvenCause<3>> CauseSearch<3>::combined();

}  // namespace hollow_probe

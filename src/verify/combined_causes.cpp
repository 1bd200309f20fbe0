// Faults that no single change cures: two or three at once.
#include <algorithm>

#include "verify/amounts.hpp"
#include "verify/cause_search.hpp"

namespace hollow_probe {
template <int D>
void CauseSearch<D>::bold_of_probe(std::size_t index, std::vector<ProvenCause<D>>& list) {
    const MountedProbe<D>& looked = mounted_.probes[index];
    if (!looked.mounted || !looked.aimed) return;
    const std::uint64_t bits = mounted_.bits_about(index);
    probe_ = static_cast<int>(index);
    reading_ = readings_[index];
    // Which way it should go cannot be told from the signal alone, which is wrong both ways.
    const bool wants_on = missed_ == ((mounted_.signals[signal_].none.readings & bits) == 0);
    if (wants_on == reading_.on) return;
    if (wants_on) {
        for (std::size_t layer = 0; layer < level_.layers().size(); ++layer) {
            const LayerSet bit = LayerSet{1} << layer;
            if ((mounted_.meets & bit) != 0 && (looked.sees & bit) == 0)
                list.push_back(
                    choice(CauseKind::layer_unseen, Change::sees_more, 0.0, static_cast<int>(layer)));
        }
        if (looked.is_line()) {
            list.push_back(with_reach(CauseKind::reach_short, looked.reach + unit_, 0.0));
            if (looked.take == Take::first)
                list.push_back(cause(CauseKind::first_hit_shadowed, Change::take_all, 0.0));
            const IfInside other =
                probe().if_inside == IfInside::report ? IfInside::ignore : IfInside::report;
            list.push_back(choice(CauseKind::starts_inside, Change::if_inside, 0.0, static_cast<int>(other)));
            if (probe().accept_most_degrees < 180.0) {
                const double most = claim_ == Claim::ground ? std::max(s_.rig.intent.steepest_footing_degrees,
                                                                       probe().accept_most_degrees)
                                                            : 180.0;
                if (most > probe().accept_most_degrees)
                    list.push_back(cause(CauseKind::angle_refused, Change::accept_most, 0.0, most,
                                         most - probe().accept_most_degrees));
            }
            if (probe().accept_least_degrees > 0.0)
                list.push_back(cause(CauseKind::angle_refused, Change::accept_least, 0.0, 0.0,
                                     probe().accept_least_degrees));
        }
        if (truth_.piece && probe().kind != ProbeKind::contact && probe().kind != ProbeKind::shift) {
            const Mat<D> frame = body_frame<D>(facing_.heading, level_.up());
            const Vec<D> along = frame.transpose() * looked.lines.front().along;
            Vec<D> aside = frame.transpose() * (truth_.point - pose_.anchor - frame * probe().from);
            aside -= aside.dot(along) * along;
            if (aside.norm() > 1e-9 * unit_) {
                auto beside = cause(CauseKind::aimed_beside, Change::from, 0.0, 1.01 * aside.norm(),
                                    1.01 * aside.norm());
                beside.shift = 1.01 * aside;
                list.push_back(beside);
            }
        }
        return;
    }
    if (reading_.own_body) list.push_back(cause(CauseKind::own_body, Change::ignore_body, 0.0));
    if (hit_level()) {
        const std::uint32_t layer = level_.layer_of(reading_.hit.piece);
        if ((mounted_.meets >> layer & 1U) == 0)
            list.push_back(choice(CauseKind::layer_wrong, Change::sees_less, 0.0, static_cast<int>(layer)));
        const double steepest = s_.rig.intent.steepest_footing_degrees;
        if (claim_ == Claim::ground && hit_angle() > steepest && probe().accept_most_degrees > steepest)
            list.push_back(
                cause(CauseKind::too_steep, Change::accept_most, 0.0, steepest, hit_angle() - steepest));
        const double shorter = reading_.hit.distance - 1e-10 * unit_;
        if (looked.is_line() && shorter > 0.0)
            list.push_back(with_reach(CauseKind::reach_long, shorter, 0.0));
    }
    if (probe().shape) {
        double room = 0.0;
        for (int axis = 0; axis < D; ++axis) {
            if (axis != 1) room = std::max(room, 0.5 * probe().shape->bounds().size()[axis]);
        }
        list.push_back(cause(CauseKind::wider_than_body, Change::narrower, 0.0, 0.999 * room, 0.999 * room));
    }
    if (probe().kind == ProbeKind::zone && probe().keeps != Keeps::set)
        list.push_back(cause(CauseKind::held, Change::keep_set, 0.0));
}

template <int D>
std::vector<ProvenCause<D>> CauseSearch<D>::bold() {
    constexpr std::size_t most = 20;
    std::vector<ProvenCause<D>> list;
    for (std::size_t i = 0; i < mounted_.probes.size(); ++i) bold_of_probe(i, list);
    probe_ = -1;
    const Signal& given = s_.rig.signals[signal_];
    if (s_.ticks_before > 0) {
        if (s_.rig.reads == Reads::before_move)
            list.push_back(cause(CauseKind::stale, Change::read_after, 0.0));
        if (missed_ && given.settle > 0.0)
            list.push_back(cause(CauseKind::settling, Change::settle, 0.0, 0.0, given.settle));
        if (missed_ && !given.mute_after.event.empty())
            list.push_back(cause(CauseKind::muted, Change::mute, 0.0, 0.0, given.mute_after.seconds));
        if (!missed_ && given.grace > 0.0)
            list.push_back(cause(CauseKind::held, Change::grace, 0.0, 0.0, given.grace));
    }
    if (list.size() > most) list.resize(most);
    return list;
}

/// Each amount drawn back as far as the verdict stays right, one after the other.
template <int D>
ProvenCause<D> CauseSearch<D>::least_of(ProvenCause<D> combined) const {
    const auto shrink = [&](auto part) {
        const auto unchanged = amount_unchanged<D>(s_, part(combined), signal_);
        if (!unchanged) return;
        double low = 0.0;
        double high = 1.0;
        const double bold = part(combined).amount;
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
        return a.probe == b.probe && a.change == b.change && a.change != Change::sees_more;
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

template <int D>
std::optional<ProvenCause<D>> prove_combined(const Surveyed<D>& surveyed, const SurveyPose<D>& pose,
                                             std::size_t signal) {
    return CauseSearch<D>(surveyed, pose, signal).combined();
}

template std::optional<ProvenCause<2>> prove_combined<2>(const Surveyed<2>&, const SurveyPose<2>&,
                                                         std::size_t);
template std::optional<ProvenCause<3>> prove_combined<3>(const Surveyed<3>&, const SurveyPose<3>&,
                                                         std::size_t);

}  // namespace hollow_probe

#include "verify/causes.hpp"

#include <algorithm>
#include <bit>

namespace hollow_probe {
namespace {

/// Narrower by `amount` on each side. A rounded shape loses radius and keeps its lowest point.
template <int D>
void narrow(Probe<D>& probe, double amount) {
    if (!probe.shape) return;
    if (probe.shape->radius() > 0.0) {
        const double radius = std::max(probe.shape->radius() - amount, 0.0);
        probe.from[1] -= probe.shape->radius() - radius;
        probe.shape = probe.shape->with_radius(radius);
        return;
    }
    const Bounds<D> bounds = probe.shape->bounds();
    Vec<D> factors = Vec<D>::Ones();
    for (int axis = 0; axis < D; ++axis) {
        if (axis == 1) continue;
        const double half = 0.5 * bounds.size()[axis];
        factors[axis] = std::max(half - amount, 1e-9 * half) / half;
    }
    // Shrunk around its own middle, not around `from`.
    const Vec<D> middle = bounds.center();
    probe.shape = probe.shape->placed(Mat<D>::Identity(), -middle)
                      .stretched(factors)
                      .placed(Mat<D>::Identity(), middle);
}

MountedSignal changed(MountedSignal signal, Change change, int detail) {
    if (change == Change::drop_member) {
        const std::uint64_t keep = ~(std::uint64_t{1} << detail);
        signal.any &= keep;
        signal.all &= keep;
        signal.none &= keep;
        signal.has_any = signal.any != 0;
    } else if (change == Change::count) {
        signal.least = detail;
    } else if (change == Change::any_for_all) {
        signal.any |= signal.all;
        signal.has_any = true;
        signal.all = 0;
    } else if (change == Change::all_for_any) {
        signal.all |= signal.any;
        signal.any = 0;
        signal.has_any = false;
    }
    return signal;
}

/// Searches the causes at one pose.
template <int D>
class Search {
  public:
    Search(const Surveyed<D>& surveyed, const SurveyPose<D>& pose, std::size_t signal)
        : s_(surveyed),
          pose_(pose),
          facing_(surveyed.facings[pose.facing]),
          mounted_(surveyed.mounted[pose.facing]),
          signal_(signal),
          claim_(surveyed.rig.signals[signal].claims),
          missed_(pose.verdict(signal) == Verdict::missed_contact) {
        const Bounds<D> stance = s_.rig.body.stances[facing_.stance].shape.bounds();
        stance_ = stance;
        unit_ = s_.body_size;
        if (missed_) {
            truth_ =
                answer<D>(claim_, s_.level, s_.question(pose.facing, signal, pose.anchor), s_.rig.intent);
        }
    }

    std::vector<ProvenCause<D>> run() {
        const MountedSignal& signal = mounted_.signals[signal_];
        const std::uint64_t members = signal.members();
        for (std::size_t i = 0; i < mounted_.probes.size(); ++i) {
            if ((members >> i & 1U) == 0) continue;
            const bool wants_on = missed_ == ((signal.none >> i & 1U) == 0);
            const bool is_on = pose_.probes_on >> i & 1U;
            if (wants_on == is_on) continue;
            probe_ = static_cast<int>(i);
            reading_ = mounted_.probes[i].read(s_.level, pose_.anchor);
            if (wants_on) {
                senses_too_little();
            } else {
                senses_too_much();
            }
        }
        combination(signal);
        std::stable_sort(causes_.begin(), causes_.end(),
                         [](const auto& a, const auto& b) { return a.rank < b.rank; });
        if (causes_.empty()) causes_.push_back({});
        return std::move(causes_);
    }

  private:
    const Probe<D>& probe() const { return s_.rig.probes[static_cast<std::size_t>(probe_)]; }

    const Solid<D>& solid_of(std::uint32_t piece) const {
        return s_.level.solids()[s_.level.solid_of(piece)];
    }

    bool signal_with(bool on) const {
        const std::uint64_t bit = std::uint64_t{1} << probe_;
        return mounted_.signals[signal_].value(on ? pose_.probes_on | bit : pose_.probes_on & ~bit);
    }

    Reading<D> reading_with(const ProvenCause<D>& cause) const {
        return mount_changed(probe(), cause, s_.level, facing_.heading).read(s_.level, pose_.anchor);
    }

    /// Whether this change of the present probe alone makes the signal right.
    bool flips(const ProvenCause<D>& cause) const { return signal_with(reading_with(cause).on) == missed_; }

    void offer(ProvenCause<D> cause) {
        if (flips(cause)) causes_.push_back(cause);
    }

    ProvenCause<D> cause(CauseKind kind, Change change, double rank) const {
        ProvenCause<D> result;
        result.kind = kind;
        result.change = change;
        result.probe = probe_;
        result.rank = rank;
        return result;
    }

    /// The least `amount` in (0, most] for which `make(amount)` flips, if some does: a coarse scan finds a
    /// flip, bisection its border.
    template <class Make>
    std::optional<ProvenCause<D>> least(double most, Make make) const {
        constexpr int steps = 8;
        double low = 0.0;
        for (int i = 1; i <= steps; ++i) {
            double high = most * i / steps;
            if (!flips(make(high))) {
                low = high;
                continue;
            }
            while (high - low > 1e-8 * most) {
                const double middle = 0.5 * (low + high);
                (flips(make(middle)) ? high : low) = middle;
            }
            return make(high);
        }
        return std::nullopt;
    }

    void senses_too_little() {
        // A layer that stops the body but that the probe does not see.
        for (std::size_t layer = 0; layer < s_.level.layers().size(); ++layer) {
            const LayerSet bit = LayerSet{1} << layer;
            if ((mounted_.meets & bit) == 0 ||
                (mounted_.probes[static_cast<std::size_t>(probe_)].sees & bit) != 0)
                continue;
            const bool supports = truth_.piece && s_.level.layer_of(*truth_.piece) == layer;
            auto unseen = cause(CauseKind::layer_unseen, Change::sees_more, supports ? -1.0 : 0.5);
            unseen.detail = static_cast<int>(layer);
            offer(unseen);
        }
        if (truth_.piece && solid_of(*truth_.piece).role == Role::reference) {
            auto unmet = cause(CauseKind::not_sensed, Change::role_both, -2.0);
            unmet.detail = static_cast<int>(s_.level.solid_of(*truth_.piece));
            offer(unmet);
        }
        starts_inside();
        offer(cause(CauseKind::first_hit_shadowed, Change::take_all, -0.8));
        if (reading_.met) angle_refused();
        reach_short();
        if (truth_.piece) aimed_beside();
    }

    void starts_inside() {
        const auto& mounted = mounted_.probes[static_cast<std::size_t>(probe_)];
        MountedProbe<D> reporting = mounted;
        reporting.if_inside = IfInside::report;
        reporting.take = Take::first;
        const Reading<D> inside = reporting.read(s_.level, pose_.anchor);
        if (!inside.met || !inside.hit.began_inside) return;
        offer(cause(CauseKind::starts_inside, Change::inside_other, -0.9));
        const auto outside = least(stance_.size()[1], [&](double amount) {
            auto back = cause(CauseKind::starts_inside, Change::start_back, -0.85);
            back.amount = amount;
            back.by = amount;
            return back;
        });
        if (outside) causes_.push_back(*outside);
    }

    void angle_refused() {
        const double angle = degrees(angle_between<D>(reading_.hit.normal, s_.level.up()));
        const bool too_high = angle > probe().accept_most_degrees;
        auto refused =
            cause(CauseKind::angle_refused, too_high ? Change::accept_most : Change::accept_least, -0.7);
        refused.amount = angle;
        refused.by = too_high ? angle - probe().accept_most_degrees : probe().accept_least_degrees - angle;
        if (claim_ == Claim::ground && angle > s_.rig.intent.steepest_footing_degrees + 1e-6)
            refused.rank = 0.5 + refused.by / 90.0;
        if (refused.by > 0.0) offer(refused);
    }

    void reach_short() {
        auto longer = cause(CauseKind::reach_short, Change::reach, 0.0);
        longer.amount = probe().reach + s_.body_size;
        const Reading<D> far = reading_with(longer);
        if (!far.on || !on_same_ground(far.hit.point)) return;
        longer.amount = far.hit.distance;
        longer.by = longer.amount - probe().reach;
        longer.rank = longer.by / unit_;
        if (longer.by > 0.0) offer(longer);
    }

    /// Whether a point could be reached from where the body stands by footing alone. A reach so long that it
    /// feels the next floor down would turn the signal on, but that floor is not what was missed.
    bool on_same_ground(const Vec<D>& point) const {
        if (!truth_.piece || claim_ != Claim::ground) return true;  // no footing is wanted
        const Vec<D> way = point - truth_.point;
        const double rise = way.dot(s_.level.up());
        const double run = (way - rise * s_.level.up()).norm();
        const double steepest = radians(std::min(s_.rig.intent.steepest_footing_degrees, 80.0));
        return std::abs(rise) <= run * std::tan(steepest) + s_.rig.intent.touch;
    }

    /// Towards the point the body really stands on.
    void aimed_beside() {
        const Mat<D> frame = body_frame<D>(facing_.heading, s_.level.up());
        const auto& mounted = mounted_.probes[static_cast<std::size_t>(probe_)];
        Vec<D> aside = frame.transpose() * (truth_.point - (pose_.anchor + mounted.from));
        aside -= aside.dot(probe().along) * probe().along;
        const double distance = aside.norm();
        if (distance <= 1e-9 * unit_) return;
        // A little past the contact: the probe must land on the solid, not on its very edge.
        const auto moved = least(1.01 * distance, [&](double amount) {
            auto beside = cause(CauseKind::aimed_beside, Change::from, amount / unit_);
            beside.amount = amount;
            beside.shift = aside * (amount / distance);
            beside.by = amount;
            return beside;
        });
        if (moved) causes_.push_back(*moved);
    }

    void senses_too_much() {
        const std::uint32_t layer = s_.level.layer_of(reading_.hit.piece);
        if ((mounted_.meets >> layer & 1U) == 0) {
            auto wrong = cause(CauseKind::layer_wrong, Change::sees_less, -1.0);
            wrong.detail = static_cast<int>(layer);
            offer(wrong);
        }
        if (solid_of(reading_.hit.piece).role == Role::sensed) {
            auto phantom = cause(CauseKind::sensed_only, Change::role_none, -2.0);
            phantom.detail = static_cast<int>(reading_.hit.solid);
            offer(phantom);
        }
        wider_than_body();
        const double steepest = s_.rig.intent.steepest_footing_degrees;
        const double angle = degrees(angle_between<D>(reading_.hit.normal, s_.level.up()));
        if (claim_ == Claim::ground && angle > steepest && probe().accept_most_degrees > steepest &&
            probe().accept_least_degrees <= steepest) {
            auto steep = cause(CauseKind::too_steep, Change::accept_most, -0.8);
            steep.amount = steepest;
            steep.by = angle - steepest;
            offer(steep);
        }
        if (reading_.hit.began_inside) offer(cause(CauseKind::starts_inside, Change::inside_other, 0.05));
        reach_long();
    }

    void wider_than_body() {
        const bool is_ray = !probe().shape;
        Bounds<D> feels = is_ray ? Bounds<D>{Vec<D>::Zero(), Vec<D>::Zero()} : probe().shape->bounds();
        feels = feels.moved(probe().from);
        double excess = 0.0;
        double room = 0.0;
        Vec<D> inwards = Vec<D>::Zero();
        for (int axis = 0; axis < D; ++axis) {
            if (axis == 1) continue;
            const double over = feels.high[axis] - stance_.high[axis];
            const double under = stance_.low[axis] - feels.low[axis];
            excess = std::max({excess, over, under});
            room = std::max(room, 0.5 * feels.size()[axis]);
            inwards[axis] = stance_.center()[axis] - feels.center()[axis];
        }
        const auto narrower = [&](double amount, double rank) {
            auto wide = cause(CauseKind::wider_than_body, is_ray ? Change::from : Change::narrower, rank);
            wide.amount = amount;
            wide.by = amount;
            if (is_ray && inwards.norm() > 0.0) wide.shift = inwards.normalized() * amount;
            return wide;
        };
        const double noise = 1e-9 * unit_;
        if (excess > noise) {
            const auto at_body = narrower(excess, -0.9);
            if (flips(at_body)) {
                causes_.push_back(at_body);
                return;
            }
        }
        // As wide as the body is still too wide where the body's sole is rounder than the probe.
        const auto found = least(is_ray ? inwards.norm() : 0.999 * room,
                                 [&](double amount) { return narrower(amount, amount / unit_); });
        if (found && found->amount > noise) causes_.push_back(*found);
    }

    void reach_long() {
        auto shorter = cause(CauseKind::reach_long, Change::reach, 0.0);
        shorter.amount = reading_.hit.distance - 1e-10 * unit_;
        if (shorter.amount <= 0.0) return;
        shorter.by = probe().reach - reading_.hit.distance;
        shorter.rank = shorter.by / unit_;
        offer(shorter);
    }

    void combination(const MountedSignal& signal) {
        probe_ = -1;
        const CauseKind kind = missed_ ? CauseKind::combined_out : CauseKind::combined_in;
        const auto try_change = [&](Change change, int detail, double rank) {
            if (changed(signal, change, detail).value(pose_.probes_on) != missed_) return;
            auto combined = cause(kind, change, rank);
            combined.detail = detail;
            causes_.push_back(combined);
        };
        const std::uint64_t gates = missed_ ? signal.all | signal.none : std::uint64_t{0};
        const bool others = (signal.any | signal.all | signal.counted) != 0;
        for (int i = 0; i < static_cast<int>(most_probes); ++i) {
            const std::uint64_t bit = std::uint64_t{1} << i;
            if ((gates & bit) != 0 && ((signal.any | signal.all | signal.counted) & ~bit) != 0)
                try_change(Change::drop_member, i, 0.3);
        }
        const auto several = [](std::uint64_t mask) { return (mask & (mask - 1)) != 0; };
        if (signal.counted != 0) {
            const int present = std::popcount(pose_.probes_on & signal.counted);
            if (missed_ && present > 0) try_change(Change::count, present, 0.29);
            if (!missed_ && present < std::popcount(signal.counted))
                try_change(Change::count, present + 1, 0.29);
        }
        if (missed_ && others && several(signal.all)) try_change(Change::any_for_all, -1, 0.31);
        if (!missed_ && several(signal.any)) try_change(Change::all_for_any, -1, 0.31);
    }

    const Surveyed<D>& s_;
    const SurveyPose<D>& pose_;
    const Facing<D>& facing_;
    const MountedRig<D>& mounted_;
    std::size_t signal_;
    Claim claim_;
    bool missed_;
    Bounds<D> stance_;
    double unit_ = 1.0;
    TruthAnswer<D> truth_;
    int probe_ = -1;
    Reading<D> reading_;
    std::vector<ProvenCause<D>> causes_;
};

}  // namespace

template <int D>
Probe<D> changed(const Probe<D>& given, const ProvenCause<D>& cause, const Level<D>& level) {
    Probe<D> probe = given;
    switch (cause.change) {
        case Change::reach:
            probe.reach = cause.amount;
            break;
        case Change::from:
            probe.from += cause.shift;
            break;
        case Change::sees_more:
            probe.sees.push_back(level.layers()[static_cast<std::size_t>(cause.detail)]);
            break;
        case Change::sees_less:
            std::erase(probe.sees, level.layers()[static_cast<std::size_t>(cause.detail)]);
            break;
        case Change::accept_most:
            probe.accept_most_degrees = cause.amount;
            break;
        case Change::accept_least:
            probe.accept_least_degrees = cause.amount;
            break;
        case Change::take_all:
            probe.take = Take::all;
            break;
        case Change::inside_other:
            probe.if_inside = probe.if_inside == IfInside::report ? IfInside::ignore : IfInside::report;
            break;
        case Change::start_back:
            probe.from -= cause.amount * probe.along;
            probe.reach += cause.amount;
            break;
        case Change::narrower:
            narrow(probe, cause.amount);
            break;
        case Change::none:
        case Change::role_both:
        case Change::role_none:
        case Change::drop_member:
        case Change::count:
        case Change::any_for_all:
        case Change::all_for_any:
            break;
    }
    return probe;
}

template <int D>
MountedProbe<D> mount_changed(const Probe<D>& probe, const ProvenCause<D>& cause, const Level<D>& level,
                              const Vec<D>& heading) {
    MountedProbe<D> mounted(changed(probe, cause, level), level, heading);
    if (cause.change == Change::role_both || cause.change == Change::role_none) {
        const LayerSet bit = LayerSet{1} << level.solids()[static_cast<std::size_t>(cause.detail)].bit;
        mounted.sees = cause.change == Change::role_both ? mounted.sees | bit : mounted.sees & ~bit;
    }
    return mounted;
}

template <int D>
std::vector<ProvenCause<D>> prove_causes(const Surveyed<D>& surveyed, const SurveyPose<D>& pose,
                                         std::size_t signal) {
    return Search<D>(surveyed, pose, signal).run();
}

template <int D>
Trial<D>::Trial(const Surveyed<D>& surveyed, const ProvenCause<D>& cause, std::size_t signal)
    : surveyed_(surveyed), cause_(cause), signal_(signal) {
    for (std::size_t facing = 0; facing < surveyed.facings.size(); ++facing) {
        const MountedRig<D>& mounted = surveyed.mounted[facing];
        signals_.push_back(changed(mounted.signals[signal], cause.change, cause.detail));
        if (cause.probe < 0) continue;
        const auto index = static_cast<std::size_t>(cause.probe);
        probes_.push_back(mount_changed(surveyed.rig.probes[index], cause, surveyed.level,
                                        surveyed.facings[facing].heading));
        probes_.back().mounted = mounted.probes[index].mounted;
    }
}

template <int D>
bool Trial<D>::signal_on(const SurveyPose<D>& pose) const {
    std::uint64_t on = pose.probes_on;
    if (cause_.probe >= 0) {
        const std::uint64_t bit = std::uint64_t{1} << cause_.probe;
        const MountedProbe<D>& probe = probes_[pose.facing];
        on = probe.mounted && probe.read(surveyed_.level, pose.anchor).on ? on | bit : on & ~bit;
    }
    return signals_[pose.facing].value(on);
}

template Probe<2> changed<2>(const Probe<2>&, const ProvenCause<2>&, const Level<2>&);
template Probe<3> changed<3>(const Probe<3>&, const ProvenCause<3>&, const Level<3>&);
template std::vector<ProvenCause<2>> prove_causes<2>(const Surveyed<2>&, const SurveyPose<2>&, std::size_t);
template std::vector<ProvenCause<3>> prove_causes<3>(const Surveyed<3>&, const SurveyPose<3>&, std::size_t);
template class Trial<2>;
template class Trial<3>;

}  // namespace hollow_probe

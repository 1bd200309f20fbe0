#include "verify/causes.hpp"

#include <algorithm>

#include "verify/cause_search.hpp"

namespace hollow_probe {
namespace {

/// A shape made smaller keeps a tenth of its size: less is no probe.
constexpr double most_lost = 0.9;

}  // namespace

template <int D>
CauseSearch<D>::CauseSearch(const Surveyed<D>& surveyed, const SurveyPose<D>& pose, std::size_t signal)
    : s_(surveyed),
      pose_(pose),
      way_(surveyed.way_to(pose)),
      facing_(surveyed.facings[pose.facing]),
      mounted_(surveyed.mounted[pose.facing]),
      level_(surveyed.level_of(pose.facing)),
      signal_(signal),
      claim_(*surveyed.rig.signals[signal].claims),
      missed_(pose.verdict(signal) == Verdict::missed_contact),
      stance_(s_.rig.body.stances[facing_.stance].shape.bounds()),
      unit_(s_.body_size),
      readings_(mounted_.probes.size()) {
    s_.read_along(way_);
    s_.hear(mounted_, way_, readings_);
    if (missed_)
        truth_ = answer<D>(claim_, level_, s_.question(pose.facing, signal, pose.anchor), s_.rig.intent);
}

template <int D>
std::vector<ProvenCause<D>> CauseSearch<D>::singles() {
    for (std::size_t i = 0; i < mounted_.probes.size(); ++i) look_at(i);
    not_mounted();
    probe_ = -1;
    combination();
    memory();
    std::stable_sort(causes_.begin(), causes_.end(),
                     [](const auto& a, const auto& b) { return a.rank < b.rank; });
    if (causes_.empty()) causes_.push_back({});
    return std::move(causes_);
}

/// Members that the present stance goes without.
template <int D>
void CauseSearch<D>::not_mounted() {
    const MountedGroup& group = mounted_.signals[signal_];
    for (std::size_t i = 0; i < mounted_.probes.size(); ++i) {
        if (mounted_.probes[i].mounted) continue;
        probe_ = static_cast<int>(i);
        offer(choice(CauseKind::not_mounted, Change::mount, -1.3, static_cast<int>(facing_.stance)));
    }
    probe_ = -1;
    // Nothing is mounted that could ever tell.
    const std::uint64_t deaf = group.members().readings | group.members().derived;
    if (causes_.empty() && deaf == 0) causes_.push_back(cause(CauseKind::not_mounted, Change::none, -1.3));
}

/// A probe is at fault only if the signal would be right with it the other way.
template <int D>
void CauseSearch<D>::look_at(std::size_t index) {
    const MountedProbe<D>& looked = mounted_.probes[index];
    if (!looked.mounted || !looked.aimed) return;
    const std::uint64_t bits = mounted_.bits_about(index);
    const auto right_with = [&](std::uint64_t on) {
        return (mounted_.signals_on(on) >> signal_ & 1U) == (missed_ ? 1U : 0U);
    };
    const bool right_on = right_with(pose_.probes_on | bits);
    const bool right_off = right_with(pose_.probes_on & ~bits);
    if (right_on == right_off) return;
    probe_ = static_cast<int>(index);
    reading_ = readings_[index];
    if (right_on) {
        senses_too_little();
    } else {
        senses_too_much();
    }
}

template <int D>
bool CauseSearch<D>::flips(const ProvenCause<D>& cause) const {
    return Alternative<D>(s_, pose_.facing, signal_, cause).signal_on(pose_, way_) == missed_;
}

template <int D>
void CauseSearch<D>::offer(ProvenCause<D> cause) {
    if (flips(cause)) causes_.push_back(std::move(cause));
}

template <int D>
ProvenCause<D> CauseSearch<D>::cause(CauseKind kind, Change change, double rank, double amount,
                                     double by) const {
    ProvenCause<D> result;
    result.kind = kind;
    result.change = change;
    result.probe = probe_;
    result.rank = rank;
    result.amount = amount;
    result.by = by;
    return result;
}

template <int D>
ProvenCause<D> CauseSearch<D>::choice(CauseKind kind, Change change, double rank, int detail) const {
    ProvenCause<D> result = cause(kind, change, rank);
    result.detail = detail;
    return result;
}

template <int D>
ProvenCause<D> CauseSearch<D>::with_reach(CauseKind kind, double reach, double rank) const {
    const bool grounded = probe().reach_grounded && facing_.grounded;
    const double by_speed = probe().reach_per_speed * facing_.velocity.norm();
    return cause(kind, grounded ? Change::reach_grounded : Change::reach, rank,
                 std::max(reach - by_speed, 0.0), std::abs(reach - mounted_probe().reach));
}

template <int D>
template <class Make>
std::optional<ProvenCause<D>> CauseSearch<D>::least(double most, Make make) const {
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

template <int D>
template <class Make>
void CauseSearch<D>::offer_least(double most, Make make) {
    if (!(most > 0.0)) return;
    if (const auto found = least(most, make)) causes_.push_back(*found);
}

/// A probe that looks along another direction than its signal is about.
template <int D>
void CauseSearch<D>::aimed_otherwise() {
    if (!is_toward(claim_) || std::abs(probe().along[1]) > 1e-9 || probe().kind == ProbeKind::zone ||
        probe().kind == ProbeKind::contact)
        return;
    static constexpr std::array aims = {Aim::fixed, Aim::drive, Aim::velocity};
    const Aim meant = aims[static_cast<std::size_t>(mounted_.toward[signal_])];
    if (meant != probe().aim)
        offer(choice(CauseKind::aimed_beside, Change::aim, -1.6, static_cast<int>(meant)));
}

template <int D>
void CauseSearch<D>::senses_too_little() {
    if (reading_.on) {
        conditions_refused();
        return;
    }
    // A layer that stops the body but that the probe does not see.
    for (std::size_t layer = 0; layer < level_.layers().size(); ++layer) {
        const LayerSet bit = LayerSet{1} << layer;
        if ((mounted_.meets & bit) == 0 || (mounted_probe().sees & bit) != 0) continue;
        const bool supports = truth_.piece && level_.layer_of(*truth_.piece) == layer;
        offer(choice(CauseKind::layer_unseen, Change::sees_more, supports ? -1.0 : 0.5,
                     static_cast<int>(layer)));
    }
    if (truth_.piece && solid_of(*truth_.piece).role == Role::reference) {
        offer(choice(CauseKind::not_sensed, Change::role_both, -2.0,
                     static_cast<int>(level_.solid_of(*truth_.piece))));
    }
    if (truth_.piece && level_.is_one_way(*truth_.piece)) {
        for (const OneWay other : {OneWay::as_body, OneWay::always}) {
            if (other != mounted_probe().one_way)
                offer(choice(CauseKind::one_way_side, Change::one_way, -1.5, static_cast<int>(other)));
        }
    }
    if (probe().kind == ProbeKind::contact) {
        touched_too_little();
        return;
    }
    if (probe().kind == ProbeKind::zone && probe().keeps != Keeps::set) {
        if (reading_.met) {
            offer(cause(CauseKind::stale, Change::keep_set, -1.2));
            return;
        }
    }
    if (!mounted_probe().is_line()) {
        placed_too_little();
        return;
    }
    if (probe().faces == Faces::front) offer(cause(CauseKind::back_face, Change::faces_other, -1.5));
    aimed_otherwise();
    starts_inside();
    if (probe().take == Take::first) offer(cause(CauseKind::first_hit_shadowed, Change::take_all, -0.8));
    if (reading_.met) angle_refused();
    reach_short();
    if (truth_.piece) aimed_beside();
    one_line_only();
}

template <int D>
void CauseSearch<D>::starts_inside() {
    MountedProbe<D> reporting = mounted_probe();
    reporting.if_inside = IfInside::report;
    reporting.take = Take::first;
    const Reading<D> inside = reporting.read(level_, mounted_.body, pose_.anchor);
    if (!inside.met || !inside.hit.began_inside) return;
    other_insides(-0.9);
    offer_least(stance_.size()[1], [&](double amount) {
        return cause(CauseKind::starts_inside, Change::start_back, -0.85, amount, amount);
    });
}

template <int D>
void CauseSearch<D>::other_insides(double rank) {
    for (const IfInside other : {IfInside::report, IfInside::ignore, IfInside::against}) {
        if (other == probe().if_inside) continue;
        offer(choice(CauseKind::starts_inside, Change::if_inside, rank, static_cast<int>(other)));
        rank += 0.01;
    }
}

template <int D>
void CauseSearch<D>::angle_refused() {
    const double angle = hit_angle();
    const bool too_high = angle > probe().accept_most_degrees;
    auto refused =
        cause(CauseKind::angle_refused, too_high ? Change::accept_most : Change::accept_least, -0.7, angle);
    refused.by = too_high ? angle - probe().accept_most_degrees : probe().accept_least_degrees - angle;
    if (claim_ == Claim::ground && angle > s_.rig.intent.steepest_footing_degrees + 1e-6)
        refused.rank = 0.5 + refused.by / 90.0;
    if (refused.by > 0.0) offer(refused);
}

template <int D>
void CauseSearch<D>::reach_short() {
    const double now = mounted_probe().reach;
    if (mounted_probe().least > 1) {
        offer_least(unit_, [&](double amount) {
            return with_reach(CauseKind::reach_short, now + amount, amount / unit_);
        });
        return;
    }
    const auto longest = with_reach(CauseKind::reach_short, now + unit_, 0.0);
    const Reading<D> far = Alternative<D>(s_, pose_.facing, signal_, longest).reading(pose_);
    if (!far.on || !on_same_ground(far.hit.point)) return;
    const auto longer =
        with_reach(CauseKind::reach_short, far.hit.distance, (far.hit.distance - now) / unit_);
    if (far.hit.distance > now) offer(longer);
}

/// Whether a point could be reached from where the body stands by footing alone. A reach so long that it
/// feels the next floor down would turn the signal on, but that floor is not what was missed.
template <int D>
bool CauseSearch<D>::on_same_ground(const Vec<D>& point) const {
    if (!truth_.piece || claim_ != Claim::ground) return true;  // no footing is wanted
    const Vec<D> way = point - truth_.point;
    const double rise = way.dot(level_.up());
    const double run = (way - rise * level_.up()).norm();
    const double steepest = radians(std::min(s_.rig.intent.steepest_footing_degrees, 80.0));
    return std::abs(rise) <= run * std::tan(steepest) + s_.rig.intent.touch;
}

/// Towards the point the body really meets.
template <int D>
void CauseSearch<D>::aimed_beside() {
    const Mat<D> frame = body_frame<D>(facing_.heading, level_.up());
    const Vec<D> along = frame.transpose() * mounted_probe().lines.front().along;
    const Vec<D> from = pose_.anchor + frame * probe().from;
    Vec<D> aside = frame.transpose() * (truth_.point - from);
    aside -= aside.dot(along) * along;
    const double distance = aside.norm();
    if (distance <= 1e-9 * unit_) return;
    // A little past the contact: the probe must land on the solid, not on its very edge.
    offer_least(1.01 * distance, [&](double amount) {
        auto beside = cause(CauseKind::aimed_beside, Change::from, amount / unit_, amount, amount);
        beside.shift = aside * (amount / distance);
        return beside;
    });
}

/// A ray below the middle of a rounded sole, which stands on its rim as well.
template <int D>
void CauseSearch<D>::one_line_only() {
    const RoundedHull<D>& stance = s_.rig.body.stances[facing_.stance].shape;
    const Probe<D>& ray = probe();
    const bool is_plain = ray.kind == ProbeKind::ray && ray.spread.kind == SpreadKind::none &&
                          ray.aim == Aim::fixed && ray.along == Vec<D>(-Vec<D>::Unit(1)) &&
                          !ray.reach_grounded && ray.reach_per_speed == 0.0;
    if (!is_plain || claim_ != Claim::ground || stance.points().size() > 2 || stance.radius() <= 0.0) return;
    constexpr double after_moving_it = 2.0;
    auto sole =
        choice(CauseKind::aimed_beside, Change::as_sole, after_moving_it, static_cast<int>(facing_.stance));
    if (truth_.piece) {
        const Vec<D> aside =
            truth_.point - pose_.anchor - body_frame<D>(facing_.heading, level_.up()) * ray.from;
        sole.by = (aside - aside.dot(level_.up()) * level_.up()).norm();
    }
    offer(sole);
}

/// Zones and shifts that overlap nothing.
template <int D>
void CauseSearch<D>::placed_too_little() {
    if (probe().kind == ProbeKind::zone) {
        offer_least(unit_, [&](double amount) {
            return cause(CauseKind::reach_short, Change::lower_end, amount / unit_, amount, amount);
        });
        if (truth_.piece) aimed_beside();
        return;
    }
    aimed_otherwise();
    offer(cause(CauseKind::stepped_over, Change::as_cast, -0.95));
    const double now = mounted_probe().reach;
    offer_least(unit_, [&](double amount) {
        return with_reach(CauseKind::reach_short, now + amount, amount / unit_);
    });
    offer_least(probe().inset, [&](double amount) {
        return cause(CauseKind::reach_short, Change::inset, amount / unit_, probe().inset - amount, amount);
    });
}

template <int D>
void CauseSearch<D>::touched_too_little() {
    if (probe().match == Match::only) offer(cause(CauseKind::combined_out, Change::match_other, -0.8));
    offer_least(90.0 - probe().side_within_degrees, [&](double amount) {
        return cause(CauseKind::angle_refused, Change::side_within, -0.7,
                     probe().side_within_degrees + amount, amount);
    });
}

/// The probe is on, but what the signal asks of its reading is not met.
template <int D>
void CauseSearch<D>::conditions_refused() {
    if (!hit_level()) return;
    const int probe_looked_at = probe_;
    for (std::size_t i = 0; i < mounted_.conditions.size(); ++i) {
        const MountedCondition& condition = mounted_.conditions[i];
        if (condition.probe != static_cast<std::size_t>(probe_looked_at)) continue;
        probe_ = -1;  // the signal is at fault
        const auto relaxed = [&](CauseKind kind, Change change, double amount, double by) {
            auto refused = cause(kind, change, -0.7, amount, by);
            refused.detail = static_cast<int>(i);
            offer(refused);
        };
        const double angle = hit_angle();
        const double most = degrees(condition.angle.most);
        const double least_angle = degrees(condition.angle.least);
        if (angle > most)
            relaxed(CauseKind::angle_refused, Change::condition_angle_most, angle, angle - most);
        if (angle < least_angle)
            relaxed(CauseKind::angle_refused, Change::condition_angle_least, angle, least_angle - angle);
        const double distance = reading_.hit.distance;
        if (distance > condition.most_distance) {
            relaxed(CauseKind::reach_short, Change::condition_distance_most, distance,
                    distance - condition.most_distance);
        }
        if (distance < condition.least_distance) {
            relaxed(CauseKind::reach_long, Change::condition_distance_least, distance,
                    condition.least_distance - distance);
        }
        if ((condition.layers >> reading_.hit.layer & 1U) == 0)
            relaxed(CauseKind::layer_unseen, Change::condition_layers, 0.0, 0.0);
    }
    probe_ = probe_looked_at;
}

template <int D>
void CauseSearch<D>::senses_too_much() {
    if (reading_.own_body) offer(cause(CauseKind::own_body, Change::ignore_body, -2.0));
    if (probe().kind == ProbeKind::zone && probe().keeps != Keeps::set && reading_.on)
        offer(cause(CauseKind::held, Change::keep_set, -1.2));
    if (hit_level()) {
        const Solid<D>& solid = solid_of(reading_.hit.piece);
        const std::uint32_t layer = level_.layer_of(reading_.hit.piece);
        const auto number = static_cast<int>(layer);
        if (solid.volume) {
            offer(choice(CauseKind::not_solid, Change::sees_less, -2.5, number));
        } else if ((mounted_.meets >> layer & 1U) == 0) {
            offer(choice(CauseKind::layer_wrong, Change::sees_less, -1.0, number));
        }
        if (solid.role == Role::sensed && !solid.volume) {
            offer(choice(CauseKind::sensed_only, Change::role_none, -2.0,
                         static_cast<int>(reading_.hit.solid)));
        }
        if (solid.one_way) {
            for (const OneWay other : {OneWay::as_body, OneWay::never}) {
                if (other != mounted_probe().one_way)
                    offer(choice(CauseKind::one_way_side, Change::one_way,
                                 other == OneWay::as_body ? -1.5 : -1.4, static_cast<int>(other)));
            }
        }
    }
    conditions_too_wide();
    if (probe().kind == ProbeKind::contact) {
        touched_too_much();
        return;
    }
    if (!mounted_probe().is_line()) {
        placed_too_much();
        return;
    }
    if (s_.rig.body.faces == Faces::front && probe().faces == Faces::both)
        offer(cause(CauseKind::back_face, Change::faces_other, -1.5));
    aimed_otherwise();
    wider_than_body();
    too_steep();
    grazes();
    if (reading_.hit.began_inside) other_insides(0.05);
    reach_long();
}

template <int D>
void CauseSearch<D>::too_steep() {
    if (!hit_level()) return;
    const double angle = hit_angle();
    const double steepest = s_.rig.intent.steepest_footing_degrees;
    if (claim_ == Claim::ground && angle > steepest && probe().accept_most_degrees > steepest &&
        probe().accept_least_degrees <= steepest) {
        offer(cause(CauseKind::too_steep, Change::accept_most, -0.8, steepest, angle - steepest));
    }
    const double flattest = 180.0 - s_.rig.intent.ceiling_within_degrees;
    if (claim_ == Claim::ceiling && angle < flattest && probe().accept_least_degrees < flattest &&
        probe().accept_most_degrees >= flattest) {
        offer(cause(CauseKind::too_steep, Change::accept_least, -0.8, flattest, flattest - angle));
    }
}

template <int D>
void CauseSearch<D>::wider_than_body() {
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
        auto wide =
            cause(CauseKind::wider_than_body, is_ray ? Change::from : Change::narrower, rank, amount, amount);
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
    const auto found = least(is_ray ? inwards.norm() : most_lost * room,
                             [&](double amount) { return narrower(amount, amount / unit_); });
    if (found && found->amount > noise) causes_.push_back(*found);
}

/// A hit whose surface the probe runs along, lost when the probe is moved aside by a hair.
template <int D>
void CauseSearch<D>::grazes() {
    const Mat<D> frame = body_frame<D>(facing_.heading, level_.up());
    const Vec<D> along = frame.transpose() * mounted_probe().lines.front().along;
    const Vec<D> normal = frame.transpose() * reading_.hit.normal;
    constexpr double brushing = 0.2;  // of the normal along the probe: less than 12° off
    if (reading_.hit.began_inside || std::abs(normal.dot(along)) > brushing) return;
    const Vec<D> aside = (normal - normal.dot(along) * along).normalized();
    offer_least(0.05 * unit_, [&](double amount) {
        auto graze = cause(CauseKind::edge_graze, Change::from, -0.5 + amount / unit_, amount, amount);
        graze.shift = amount * aside;
        return graze;
    });
}

template <int D>
void CauseSearch<D>::reach_long() {
    const double now = mounted_probe().reach;
    if (mounted_probe().least > 1) {
        offer_least(0.999 * now, [&](double amount) {
            return with_reach(CauseKind::reach_long, now - amount, amount / unit_);
        });
        return;
    }
    const double shorter = reading_.hit.distance - 1e-10 * unit_;
    if (shorter <= 0.0 || shorter < probe().reach_per_speed * facing_.velocity.norm()) return;
    offer(with_reach(CauseKind::reach_long, shorter, (now - shorter) / unit_));
}

template <int D>
void CauseSearch<D>::placed_too_much() {
    if (probe().kind == ProbeKind::zone) {
        wider_than_body();
        int axis = 0;
        probe().along.cwiseAbs().maxCoeff(&axis);
        offer_least(most_lost * probe().shape->bounds().size()[axis], [&](double amount) {
            return cause(CauseKind::reach_long, Change::lower_end, amount / unit_, -amount, amount);
        });
        return;
    }
    aimed_otherwise();
    const double now = mounted_probe().reach;
    if (now > 0.0) {
        offer_least(now, [&](double amount) {
            return with_reach(CauseKind::reach_long, now - amount, amount / unit_);
        });
    }
    const double thickest = s_.rig.body.stances[facing_.stance].shape.radius() > 0.0
                                ? s_.rig.body.stances[facing_.stance].shape.radius()
                                : 0.5 * stance_.size().minCoeff();
    offer_least(0.9 * (thickest - probe().inset), [&](double amount) {
        return cause(CauseKind::wider_than_body, Change::inset, amount / unit_, probe().inset + amount,
                     amount);
    });
}

template <int D>
void CauseSearch<D>::touched_too_much() {
    if (probe().match == Match::includes) offer(cause(CauseKind::combined_in, Change::match_other, -0.6));
    offer_least(0.999 * probe().side_within_degrees, [&](double amount) {
        return cause(CauseKind::too_steep, Change::side_within, -0.7, probe().side_within_degrees - amount,
                     amount);
    });
}

template <int D>
void CauseSearch<D>::conditions_too_wide() {
    if (!hit_level()) return;
    const int probe_looked_at = probe_;
    for (std::size_t i = 0; i < mounted_.conditions.size(); ++i) {
        const MountedCondition& condition = mounted_.conditions[i];
        if (condition.probe != static_cast<std::size_t>(probe_looked_at)) continue;
        probe_ = -1;
        const auto tightened = [&](CauseKind kind, Change change, double rank, double amount, double by) {
            auto wide = cause(kind, change, rank, amount, by);
            wide.detail = static_cast<int>(i);
            offer(wide);
        };
        const double steepest = s_.rig.intent.steepest_footing_degrees;
        const double angle = hit_angle();
        if (claim_ == Claim::ground && angle > steepest && condition.angle.most > radians(steepest)) {
            tightened(CauseKind::too_steep, Change::condition_angle_most, -0.9, steepest, angle - steepest);
        }
        const double distance = reading_.hit.distance;
        const double shorter = distance - 1e-10 * unit_;
        if (shorter > condition.least_distance && condition.most_distance < infinity) {
            const double by = condition.most_distance - distance;
            tightened(CauseKind::reach_long, Change::condition_distance_most, by / unit_, shorter, by);
        }
    }
    probe_ = probe_looked_at;
}

/// Changes to how the signal puts its members together.
template <int D>
void CauseSearch<D>::combination() {
    const Signal& given = s_.rig.signals[signal_];
    const MountedGroup& signal = mounted_.signals[signal_];
    const CauseKind kind = missed_ ? CauseKind::combined_out : CauseKind::combined_in;
    const auto try_change = [&](CauseKind named, Change change, int detail, double rank) {
        offer(choice(named, change, rank, detail));
    };
    const std::size_t others = given.any.size() + given.all.size() + given.at_least.of.size();
    if (missed_) {
        for (std::size_t list = 1; list <= 2; ++list) {
            const std::vector<Member>& members = list == 1 ? given.all : given.none;
            for (std::size_t i = 0; i < members.size(); ++i) {
                if (others - (list == 1 ? 1U : 0U) == 0) continue;
                const bool is_signal =
                    std::any_of(s_.rig.signals.begin(), s_.rig.signals.end(),
                                [&](const Signal& other) { return other.name == members[i].name; });
                try_change(is_signal ? CauseKind::gated_off : kind, Change::drop_member,
                           static_cast<int>(most_members * list + i), is_signal ? -0.4 : 0.3);
            }
        }
    }
    if (signal.counted.count() > 0) {
        const Bits on{pose_.probes_on, pose_.signals_on};
        const int present = (on & signal.counted).count();
        if (missed_ && present > 0) try_change(kind, Change::count, present, 0.29);
        if (!missed_ && present < signal.counted.count()) try_change(kind, Change::count, present + 1, 0.29);
    }
    if (missed_ && given.all.size() > 1) try_change(kind, Change::any_for_all, -1, 0.31);
    if (!missed_ && given.any.size() > 1) try_change(kind, Change::all_for_any, -1, 0.31);
    if (missed_ || claim_ != Claim::drop) return;
    // A drop is one only for what stands.
    for (std::size_t i = 0; i < signal_; ++i) {
        if (s_.rig.signals[i].claims == Claim::ground && (pose_.truths_on >> i & 1U) == 0)
            try_change(kind, Change::gate_by, static_cast<int>(i), -0.5);
    }
}

template <int D>
bool CauseSearch<D>::reads_early() const {
    return std::any_of(mounted_.probes.begin(), mounted_.probes.end(),
                       [](const MountedProbe<D>& probe) { return probe.reads == Reads::before_move; });
}

/// What the ticks before left behind.
template <int D>
void CauseSearch<D>::memory() {
    if (s_.ticks_before == 0) return;
    const Signal& given = s_.rig.signals[signal_];
    if (reads_early()) offer(cause(CauseKind::stale, Change::read_after, -1.1));
    if (missed_) {
        offer_least(given.settle, [&](double amount) {
            return cause(CauseKind::settling, Change::settle, -1.0, given.settle - amount, amount);
        });
        offer_least(given.mute_after.event.empty() ? 0.0 : given.mute_after.seconds, [&](double amount) {
            return cause(CauseKind::muted, Change::mute, -1.0, given.mute_after.seconds - amount, amount);
        });
    } else {
        offer_least(given.grace, [&](double amount) {
            return cause(CauseKind::held, Change::grace, -1.0, given.grace - amount, amount);
        });
    }
}

template <int D>
std::vector<ProvenCause<D>> prove_causes(const Surveyed<D>& surveyed, const SurveyPose<D>& pose,
                                         std::size_t signal) {
    return CauseSearch<D>(surveyed, pose, signal).singles();
}

template std::vector<ProvenCause<2>> prove_causes<2>(const Surveyed<2>&, const SurveyPose<2>&, std::size_t);
template std::vector<ProvenCause<3>> prove_causes<3>(const Surveyed<3>&, const SurveyPose<3>&, std::size_t);
template class CauseSearch<2>;
template class CauseSearch<3>;

}  // namespace hollow_probe

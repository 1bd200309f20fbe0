#include "verify/changes.hpp"

#include <algorithm>

namespace hollow_probe {
namespace {

/// A shape with its core's extent across up less by `amount` on each side, around its own middle.
template <int D>
RoundedHull<D> narrowed(const RoundedHull<D>& shape, double amount) {
    const Bounds<D> bounds = shape.bounds();
    Vec<D> factors = Vec<D>::Ones();
    for (int axis = 0; axis < D; ++axis) {
        if (axis == 1) continue;
        const double half = 0.5 * bounds.size()[axis];
        factors[axis] = std::max(half - amount, 1e-9 * half) / half;
    }
    return shape.stretched(factors);
}

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
    probe.shape = narrowed<D>(*probe.shape, amount);
}

/// A zone whose end along the axis nearest to `along` is moved by `amount` (less than 0: drawn in).
template <int D>
void move_end(Probe<D>& probe, double amount) {
    if (!probe.shape) return;
    int axis = 0;
    probe.along.cwiseAbs().maxCoeff(&axis);
    const double sign = probe.along[axis] < 0.0 ? -1.0 : 1.0;
    if (probe.shape->radius() > 0.0) {
        const double radius = std::max(probe.shape->radius() + 0.5 * amount, 1e-9);
        probe.shape = probe.shape->with_radius(radius);
        probe.from[axis] += 0.5 * sign * amount;
        return;
    }
    const double length = probe.shape->bounds().size()[axis];
    Vec<D> factors = Vec<D>::Ones();
    factors[axis] = std::max(length + amount, 1e-9 * length) / length;
    probe.shape = probe.shape->stretched(factors);
    probe.from[axis] += 0.5 * sign * amount;
}

/// A cast that feels what the body's own rounded sole would stand on, and no more.
template <int D>
void make_sole(Probe<D>& probe, const Stance<D>& stance, const Intent& intent) {
    const double radius = stance.shape.radius();
    probe.kind = ProbeKind::cast;
    probe.shape = RoundedHull<D>::ball(Vec<D>::Zero(), radius);
    probe.from = radius * Vec<D>::Unit(1);
    probe.reach = intent.touch;
    probe.accept_least_degrees = 0.0;
    probe.accept_most_degrees = intent.steepest_footing_degrees;
    probe.take = Take::all;
}

Bits without(const Bits& bits, const Bits& out) {
    return {bits.readings & ~out.readings, bits.derived & ~out.derived};
}

void change_group(MountedGroup& group, const std::array<std::vector<Bits>, 4>& members, Change change,
                  int detail) {
    switch (change) {
        case Change::drop_member: {
            const auto number = static_cast<std::size_t>(detail);
            const Bits out = members[number / most_members][number % most_members];
            group.any = without(group.any, out);
            group.all = without(group.all, out);
            group.none = without(group.none, out);
            group.has_any = !group.any.none();
            break;
        }
        case Change::count:
            group.least = detail;
            break;
        case Change::any_for_all:
            group.any = group.any | group.all;
            group.has_any = true;
            group.all = {};
            break;
        case Change::all_for_any:
            group.all = group.all | group.any;
            group.any = {};
            group.has_any = false;
            break;
        case Change::gate_by:
            group.all = group.all | Bits{0, std::uint64_t{1} << detail};
            break;
        default:
            break;
    }
}

bool is_to_condition(Change change) {
    return change >= Change::condition_angle_most && change <= Change::condition_layers;
}

void change_condition(MountedCondition& condition, Change change, double amount) {
    if (change == Change::condition_angle_most) condition.angle.most = radians(amount);
    if (change == Change::condition_angle_least) condition.angle.least = radians(amount);
    if (change == Change::condition_distance_most) condition.most_distance = amount;
    if (change == Change::condition_distance_least) condition.least_distance = amount;
    if (change == Change::condition_layers) condition.layers = ~std::uint64_t{0};
}

}  // namespace

template <int D>
Probe<D> changed(const Probe<D>& given, const ProvenCause<D>& cause, const Level<D>& level,
                 const Rig<D>& rig) {
    Probe<D> probe = given;
    const auto layer = [&] { return level.layers()[static_cast<std::size_t>(cause.detail)]; };
    switch (cause.change) {
        case Change::reach:
            probe.reach = cause.amount;
            break;
        case Change::reach_grounded:
            probe.reach_grounded = cause.amount;
            break;
        case Change::from:
            probe.from += cause.shift;
            break;
        case Change::aim:
            probe.aim = static_cast<Aim>(cause.detail);
            probe.along = Vec<D>::Unit(0);
            break;
        case Change::sees_more:
            probe.sees.push_back(layer());
            break;
        case Change::sees_less:
            std::erase(probe.sees, layer());
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
        case Change::if_inside:
            probe.if_inside = static_cast<IfInside>(cause.detail);
            break;
        case Change::start_back:
            probe.from -= cause.amount * probe.along;
            probe.reach += cause.amount;
            break;
        case Change::narrower:
            narrow(probe, cause.amount);
            break;
        case Change::lower_end:
            move_end(probe, cause.amount);
            break;
        case Change::one_way:
            probe.one_way = static_cast<OneWay>(cause.detail);
            break;
        case Change::ignore_body:
            probe.ignores_body = true;
            break;
        case Change::keep_set:
            probe.keeps = Keeps::set;
            break;
        case Change::inset:
            probe.inset = cause.amount;
            break;
        case Change::side_within:
            probe.side_within_degrees = cause.amount;
            break;
        case Change::faces_other:
            probe.faces = probe.faces == Faces::both ? Faces::front : Faces::both;
            break;
        case Change::mount:
            probe.stances.push_back(rig.body.stances[static_cast<std::size_t>(cause.detail)].name);
            break;
        case Change::as_sole:
            make_sole(probe, rig.body.stances[static_cast<std::size_t>(cause.detail)], rig.intent);
            break;
        case Change::match_other:
            probe.match = probe.match == Match::only ? Match::includes : Match::only;
            break;
        default:  // not one to a probe
            break;
    }
    return probe;
}

template <int D>
Alternative<D>::Alternative(const Surveyed<D>& surveyed, std::size_t facing, std::size_t signal,
                            const ProvenCause<D>& cause)
    : surveyed_(surveyed), facing_(facing), signal_(signal) {
    apply(cause);
    for (const ProvenCause<D>& further : cause.with) apply(further);
    if (surveyed_.ticks_before > 0) own_rig();
    if (!rig_) return;
    for (const auto& [index, probe] : probes_) rig_->replace(index, probe);
}

template <int D>
MountedRig<D>& Alternative<D>::own_rig() {
    if (!rig_) rig_ = surveyed_.mounted[facing_];
    return *rig_;
}

template <int D>
void Alternative<D>::apply(const ProvenCause<D>& cause) {
    const Level<D>& level = surveyed_.level_of(facing_);
    if (cause.change == Change::mount) {
        Rig<D> rig = surveyed_.rig;
        const std::size_t stance = surveyed_.facings[facing_].stance;
        rig.probes[static_cast<std::size_t>(cause.probe)].stances.push_back(rig.body.stances[stance].name);
        rig_.emplace(rig, level, stance, surveyed_.situation(facing_));
        conditions_changed_ = true;  // all is read anew
        return;
    }
    if (cause.probe >= 0) {
        const auto index = static_cast<std::size_t>(cause.probe);
        const auto earlier =
            std::find_if(probes_.begin(), probes_.end(), [&](const auto& p) { return p.first == index; });
        const Probe<D>& given =
            earlier == probes_.end() ? surveyed_.rig.probes[index] : earlier->second.probe();
        const std::size_t stance = surveyed_.facings[facing_].stance;
        Probe<D> probe = changed(given, cause, level, surveyed_.rig);
        if (cause.change == Change::as_cast) {
            // The stance, less its inset, sent along the way it would be put at the end of.
            probe.shape = surveyed_.mounted[facing_].probes[index].upright();
            probe.kind = ProbeKind::cast;
            if (probe.axes == ShiftAxes::across_up) probe.along[1] = 0.0;
            if (probe.axes == ShiftAxes::along_up)
                probe.along = (probe.along[1] < 0.0 ? -1.0 : 1.0) * Vec<D>::Unit(1);
            probe.along.normalize();
        }
        MountedProbe<D> mounted(probe, surveyed_.rig, level, stance, surveyed_.situation(facing_));
        mounted.zone = surveyed_.mounted[facing_].probes[index].zone;
        mounted.used_by = surveyed_.mounted[facing_].probes[index].used_by;
        if (cause.change == Change::role_both || cause.change == Change::role_none) {
            const LayerSet bit = LayerSet{1} << level.solids()[static_cast<std::size_t>(cause.detail)].bit;
            mounted.sees = cause.change == Change::role_both ? mounted.sees | bit : mounted.sees & ~bit;
        }
        if (earlier == probes_.end()) {
            probes_.emplace_back(index, std::move(mounted));
        } else {
            earlier->second = std::move(mounted);
        }
        return;
    }
    MountedRig<D>& rig = own_rig();
    if (cause.change == Change::read_after) {
        for (MountedProbe<D>& probe : rig.probes) probe.reads = Reads::after_move;
        reads_changed_ = true;
    } else if (is_to_condition(cause.change)) {
        conditions_changed_ = true;
        change_condition(rig.conditions[static_cast<std::size_t>(cause.detail)], cause.change, cause.amount);
    } else if (cause.change == Change::settle) {
        rig.timing[signal_].settle = cause.amount;
    } else if (cause.change == Change::grace) {
        rig.timing[signal_].grace = cause.amount;
    } else if (cause.change == Change::mute) {
        rig.timing[signal_].mute_seconds = cause.amount;
    } else {
        change_group(rig.signals[signal_], rig.members[signal_], cause.change, cause.detail);
    }
}

template <int D>
std::uint64_t Alternative<D>::signals_on(const SurveyPose<D>& pose,
                                         const typename Surveyed<D>::Way& way) const {
    if (surveyed_.ticks_before > 0) {
        const bool read_alike = probes_.empty() && !conditions_changed_ && !reads_changed_ && !way.on.empty();
        return read_alike ? surveyed_.signals_after(*rig_, way) : surveyed_.hear(*rig_, way).signals_on;
    }
    const MountedRig<D>& rig = rig_ ? *rig_ : surveyed_.mounted[facing_];
    std::uint64_t on = pose.probes_on;
    if (conditions_changed_) return surveyed_.hear(rig, way).signals_on;
    for (const auto& [index, probe] : probes_) {
        on &= ~rig.bits_about(index);
        if (probe.mounted) on |= rig.bits_of(index, read(probe, pose));
    }
    return rig.signals_on(on);
}

template <int D>
Reading<D> Alternative<D>::read(const MountedProbe<D>& probe, const SurveyPose<D>& pose) const {
    const MountedRig<D>& rig = surveyed_.mounted[facing_];
    std::vector<MoveContact<D>> touched;
    if (probe.kind == ProbeKind::contact) touched = surveyed_.contacts(rig, facing_, pose.anchor);
    return probe.read(surveyed_.level_of(facing_), rig.body, pose.anchor, touched);
}

template <int D>
Reading<D> Alternative<D>::reading(const SurveyPose<D>& pose) const {
    return probes_.empty() ? Reading<D>{} : read(probes_.front().second, pose);
}

template Probe<2> changed<2>(const Probe<2>&, const ProvenCause<2>&, const Level<2>&, const Rig<2>&);
template Probe<3> changed<3>(const Probe<3>&, const ProvenCause<3>&, const Level<3>&, const Rig<3>&);
template class Alternative<2>;
template class Alternative<3>;

}  // namespace hollow_probe

#include "verify/rig_change.hpp"

#include <algorithm>

namespace hollow_probe {
namespace {

/// Calls visit(member) for the members of a group that have a condition, nested ones included, in the order
/// in which a mounted rig numbers conditions; until it returns false.
template <class Group, class Visit>
bool for_each_condition(Group& group, Visit visit) {
    for (auto* list : {&group.any, &group.all, &group.none, &group.at_least.of}) {
        for (Member& member : *list) {
            if (member.name.empty()) {
                if (!for_each_condition(member.group.front(), visit)) return false;
            } else if (member.has_condition() && !visit(member)) {
                return false;
            }
        }
    }
    return true;
}

/// The member that has the condition of that number.
template <int D>
Member* condition_of(Rig<D>& rig, int number) {
    Member* found = nullptr;
    for (Signal& signal : rig.signals) {
        const auto is_before = [&](Member& member) {
            if (number-- == 0) found = &member;
            return found == nullptr;
        };
        if (!for_each_condition(signal, is_before)) break;
    }
    return found;
}

void change_condition(Member& member, Change change, double amount) {
    constexpr std::array<double, 2> all_angles = {0.0, 180.0};
    const std::array<double, 2> all_distances = {0.0, infinity};
    auto angles = member.angle_degrees.value_or(all_angles);
    auto distances = member.distance.value_or(all_distances);
    switch (change) {
        case Change::condition_angle_most:
            angles[1] = amount;
            member.angle_degrees = angles;
            break;
        case Change::condition_angle_least:
            angles[0] = amount;
            member.angle_degrees = angles;
            break;
        case Change::condition_distance_most:
            distances[1] = amount;
            member.distance = distances;
            break;
        case Change::condition_distance_least:
            distances[0] = amount;
            member.distance = distances;
            break;
        default:
            member.layers.clear();
            break;
    }
}

void move_all(std::vector<Member>& from, std::vector<Member>& to) {
    to.insert(to.end(), from.begin(), from.end());
    from.clear();
}

/// A shift made a cast of the stance along the way it would be put at the end of. False where it is mounted
/// in stances of several shapes.
template <int D>
bool make_cast(Probe<D>& probe, const Body<D>& body) {
    const Stance<D>* stance = nullptr;
    for (const Stance<D>& one : body.stances) {
        const auto& named = probe.stances;
        if (!named.empty() && std::find(named.begin(), named.end(), one.name) == named.end()) continue;
        if (stance != nullptr) return false;
        stance = &one;
    }
    if (stance == nullptr || probe.inset > 0.0) return false;
    const Vec<D> middle = stance->shape.bounds().center();
    probe.kind = ProbeKind::cast;
    probe.shape = stance->shape.placed(Mat<D>::Identity(), Vec<D>(-middle));
    probe.from = middle;
    if (probe.axes == ShiftAxes::across_up) probe.along[1] = 0.0;
    if (probe.axes == ShiftAxes::along_up)
        probe.along = (probe.along[1] < 0.0 ? -1.0 : 1.0) * Vec<D>::Unit(1);
    probe.along.normalize();
    probe.axes = ShiftAxes::both;
    return true;
}

template <int D>
void change_signal(Rig<D>& rig, std::size_t number, const ProvenCause<D>& cause) {
    Signal& signal = rig.signals[number];
    switch (cause.change) {
        case Change::drop_member: {
            const std::array<std::vector<Member>*, 3> lists = {&signal.any, &signal.all, &signal.none};
            const auto detail = static_cast<std::size_t>(cause.detail);
            std::vector<Member>& list = *lists[detail / most_members];
            list.erase(list.begin() + static_cast<std::ptrdiff_t>(detail % most_members));
            break;
        }
        case Change::count:
            signal.at_least.count = static_cast<std::size_t>(cause.detail);
            break;
        case Change::any_for_all:
            move_all(signal.all, signal.any);
            break;
        case Change::all_for_any:
            move_all(signal.any, signal.all);
            break;
        case Change::gate_by:
            signal.all.emplace_back(rig.signals[static_cast<std::size_t>(cause.detail)].name);
            break;
        case Change::settle:
            signal.settle = cause.amount;
            break;
        case Change::grace:
            signal.grace = cause.amount;
            break;
        case Change::mute:
            signal.mute_after.seconds = cause.amount;
            break;
        case Change::read_after:
            rig.reads = Reads::after_move;
            for (Probe<D>& probe : rig.probes) {
                if (probe.reads) probe.reads = Reads::after_move;
            }
            break;
        default:
            if (Member* const member = condition_of(rig, cause.detail))
                change_condition(*member, cause.change, cause.amount);
            break;
    }
}

}  // namespace

template <int D>
std::optional<Rig<D>> with_change(const Level<D>& level, const Rig<D>& given, std::size_t signal,
                                  const ProvenCause<D>& cause) {
    if (cause.change == Change::none || cause.change == Change::role_both ||
        cause.change == Change::role_none)
        return std::nullopt;
    Rig<D> rig = given;
    if (cause.probe < 0) {
        change_signal<D>(rig, signal, cause);
    } else {
        Probe<D>& probe = rig.probes[static_cast<std::size_t>(cause.probe)];
        probe = changed<D>(probe, cause, level, rig);
        if (cause.change == Change::as_cast && !make_cast<D>(probe, rig.body)) return std::nullopt;
    }
    for (const ProvenCause<D>& further : cause.with) {
        const auto more = with_change<D>(level, rig, signal, further);
        if (!more) return std::nullopt;
        rig = *more;
    }
    return rig;
}

template std::optional<Rig<2>> with_change<2>(const Level<2>&, const Rig<2>&, std::size_t,
                                              const ProvenCause<2>&);
template std::optional<Rig<3>> with_change<3>(const Level<3>&, const Rig<3>&, std::size_t,
                                              const ProvenCause<3>&);

}  // namespace hollow_probe

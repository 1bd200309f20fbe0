#include "hollow_probe/rig/mounted_probe.hpp"

#include <algorithm>

#include "hollow_probe/geometry/cast.hpp"

namespace hollow_probe {
namespace {

template <int D>
Mat<D> mirror() {
    Mat<D> map = Mat<D>::identity();
    map(0, 0) = -1.0;
    return map;
}

/// A shape smaller by `inset` on every side; its middle stays.
template <int D>
RoundedHull<D> shrunk(const RoundedHull<D>& shape, double inset) {
    if (inset == 0.0) return shape;
    if (shape.radius() > 0.0) return shape.with_radius(std::max(shape.radius() - inset, 0.0));
    const Bounds<D> box = shape.bounds();
    Vec<D> factors;
    for (int axis = 0; axis < D; ++axis) factors[axis] = std::max(1.0 - 2.0 * inset / box.size()[axis], 1e-9);
    return shape.stretched(factors);
}

template <int D>
RoundedHull<D> mounted_shape(const Probe<D>& probe, const RoundedHull<D>& stance) {
    if (probe.kind() == ProbeKind::shift) return shrunk<D>(stance, probe.shift().inset);
    if (const RoundedHull<D>* const shape = shape_of(probe)) return *shape;
    // A ray is the cast of a point: a ball without its radius.
    return RoundedHull<D>::ball(Vec<D>::zero(), 1.0).with_radius(0.0);
}

/// What is aimed and looked along.
template <int D>
LineProbe<D> as_line(const Probe<D>& probe) {
    if (probe.is_line()) return probe.line();
    LineProbe<D> line;
    if (const Vec<D>* const from = from_of(probe)) line.from = *from;
    if (const Vec<D>* const along = along_of(probe)) line.along = *along;
    if (const OneWay* const one_way = one_way_of(probe)) line.one_way = *one_way;
    if (probe.kind() != ProbeKind::shift) return line;
    line.aim = probe.shift().aim;
    line.reach = probe.shift().reach;
    line.reach_grounded = probe.shift().reach_grounded;
    line.reach_per_speed = probe.shift().reach_per_speed;
    return line;
}

}  // namespace

template <int D>
TurnedShape<D>::TurnedShape(const RoundedHull<D>& shape)
    : upright(shape), mirrored(shape.placed(mirror<D>())) {}

template <int D>
void TurnedShape<D>::put(RoundedHull<D>& result, const Mat<D>& frame) const {
    const bool mirrors = frame.determinant() < 0.0;
    result.put(mirrors ? mirrored : upright, mirrors ? Mat<D>(frame * mirror<D>()) : frame);
}

template <int D>
MountedProbe<D>::MountedProbe(const Probe<D>& probe, const RoundedHull<D>& stance, SeenLayers seen,
                              LayerSet own)
    : kind(probe.kind()),
      shape(mounted_shape<D>(probe, stance)),
      reads(probe.reads.value_or(Reads::after_move)),
      probe_(probe),
      line_(as_line<D>(probe)),
      turned_(shape),
      seen_(std::move(seen)) {
    accept = {radians(line_.accept_least_degrees), radians(line_.accept_most_degrees),
              radians(line_.accept_least_incidence_degrees), radians(line_.accept_most_incidence_degrees)};
    take = line_.take;
    faces = line_.faces;
    if_inside = line_.if_inside;
    one_way = line_.one_way;
    least = line_.spread.least;
    meets_own_body = !line_.ignores_body && (seen_.always & own) != 0;
    lines.reserve(static_cast<std::size_t>(line_.spread.line_count()));
    if (kind == ProbeKind::zone) keeps = probe.zone().keeps;
    if (kind == ProbeKind::shift) axes_ = probe.shift().axes;
    if (kind != ProbeKind::contact) return;
    match = probe.contact().match;
    side = probe.contact().side;
    side_within = radians(probe.contact().within_degrees);
}

template <int D>
MountedProbe<D>::MountedProbe(const Probe<D>& probe, const Rig<D>& rig, const Level<D>& level,
                              std::size_t stance, const Situation<D>& situation)
    : MountedProbe(probe, rig.body.stances[stance].shape,
                   {level.mask_of(probe.sees, Role::sensed),
                    level.speed_gates(probe.sees, rig.body.stances[stance].name)},
                   rig.body.layer.empty() ? 0 : level.mask_of({rig.body.layer}, Role::both)) {
    reads = probe.reads.value_or(rig.reads);
    sunk = rig.intent.touch;
    const std::string& name = rig.body.stances[stance].name;
    mounted = probe.stances.empty() ||
              std::find(probe.stances.begin(), probe.stances.end(), name) != probe.stances.end();
    aim(situation, level.up());
}

template <int D>
void MountedProbe<D>::follow(const MountedProbe& leader) {
    followed = {leader};
    mounted = mounted && leader.mounted;
    aimed = aimed && leader.aimed;
}

template <int D>
void MountedProbe<D>::start_at(const Vec<D>& from) noexcept {
    *from_of(probe_) = from;
    line_.from = from;
}

template <int D>
void MountedProbe<D>::aim(const Situation<D>& situation, const Vec<D>& up) noexcept {
    const Mat<D> frame = body_frame<D>(situation.heading, up);
    turned_.put(shape, frame);
    const double speed = situation.velocity.norm();
    sees = seen_.at(speed);
    reach = line_.reach_grounded && situation.grounded ? *line_.reach_grounded : line_.reach;
    reach += line_.reach_per_speed * speed;
    Vec<D> along = line_.along;
    aimed = true;
    if (line_.aim != Aim::fixed) {
        const Vec<D> wanted =
            frame.transposed() * (line_.aim == Aim::drive ? situation.drive : situation.velocity);
        aimed = wanted.norm() > 0.0;
        along = aimed ? wanted.normalized() : Vec<D>::unit(0);
    }
    if (kind == ProbeKind::shift) {
        // The part of the displacement it makes; across up where all of it is along up there is none left.
        if (axes_ == ShiftAxes::across_up) along[1] = 0.0;
        if (axes_ == ShiftAxes::along_up) along = along[1] * Vec<D>::unit(1);
    }
    spread_lines<D>(line_.spread, line_.from, along, lines);
    for (ProbeLine<D>& line : lines) {
        line.from = frame * line.from;
        line.along = frame * line.along;
    }
    if (followed.empty()) return;
    followed.front().aim(situation, up);
    aimed = aimed && followed.front().aimed;
}

template <int D>
bool MountedProbe<D>::aims_alike(const Situation<D>& a, const Situation<D>& b) const noexcept {
    const bool by_speed = line_.reach_per_speed != 0.0 || !seen_.at_speeds.empty();
    return a.heading == b.heading && (!by_speed || a.velocity == b.velocity) &&
           (!line_.reach_grounded || a.grounded == b.grounded) &&
           (line_.aim != Aim::drive || a.drive == b.drive) &&
           (line_.aim != Aim::velocity || a.velocity == b.velocity) &&
           (followed.empty() || followed.front().aims_alike(a, b));
}

template <int D>
Bounds<D> MountedProbe<D>::bounds() const {
    Bounds<D> box;
    const Bounds<D> around = shape.bounds();
    for (const ProbeLine<D>& line : lines) {
        const Bounds<D> start = around.moved(line.from);
        box.grow(start);
        box.grow(start.moved(reach * line.along));
    }
    for (const MountedProbe* leader = this; !leader->followed.empty();) {
        leader = &leader->followed.front();
        box.grow(box.moved(leader->displacement()));
    }
    return box;
}

template <int D>
bool MountedProbe<D>::meets_body(std::size_t line, const RoundedHull<D>& body, const Vec<D>& up,
                                 const AngleRange& angles, LevelHit<D>& hit) const noexcept {
    const auto found =
        hollow_probe::cast<D>(shape.view(), lines[line].from, lines[line].along, reach, body.view());
    if (!found) return false;
    if (found->began_inside && passes_over<D>(if_inside, found->normal, lines[line].along)) return false;
    if (!within<D>(angles, found->normal, lines[line].along, up)) return false;
    hit.distance = found->distance;
    hit.normal = found->normal;
    hit.point = lines[line].from + found->distance * lines[line].along;
    hit.began_inside = found->began_inside;
    hit.depth = found->depth;
    return true;
}

template <int D>
void MountedProbe<D>::take_overlap(const LevelNeighbour<D>& found, Reading<D>& reading) noexcept {
    reading.hit.distance = 0.0;
    reading.hit.began_inside = true;
    reading.hit.depth = -found.gap;
    reading.hit.normal = found.normal;
    reading.hit.point = found.on_level;
    reading.hit.piece = found.piece;
    reading.hit.solid = found.solid;
    reading.hit.layer = found.layer;
}

bool ZoneMemory::take(std::span<const std::uint32_t> now, Keeps keeps, bool used) noexcept {
    // Both lists ascend: what is in one only has entered or left.
    bool entered = false;
    bool left = false;
    std::size_t old = 0;
    for (const std::uint32_t solid : now) {
        for (; old < count && inside[old] < solid; ++old) left = true;
        if (old < count && inside[old] == solid) {
            ++old;
        } else {
            entered = true;
        }
    }
    left = left || old < count;
    count = now.size();
    std::copy(now.begin(), now.end(), inside.begin());
    if (keeps == Keeps::set) return count > 0;
    if (keeps == Keeps::last_event) {
        // Of one tick the enters are told first.
        if (entered) flag = true;
        if (left) flag = false;
    } else {
        if (used) flag = false;
        if (entered) flag = true;
    }
    return flag;
}

template <int D>
void MountedProbe<D>::read_zone(std::span<const LevelNeighbour<D>> found, std::size_t count,
                                ZoneMemory* memory, std::uint64_t events,
                                Reading<D>& reading) const noexcept {
    reading.met = count > 0;
    reading.solids = count;
    const LevelNeighbour<D>* deepest = nullptr;
    for (const LevelNeighbour<D>& piece : found) {
        if (deepest == nullptr || piece.gap < deepest->gap) deepest = &piece;
    }
    if (deepest != nullptr) take_overlap(*deepest, reading);
    reading.on = reading.met;
    if (kind == ProbeKind::shift || memory == nullptr) return;
    std::array<std::uint32_t, ZoneMemory::most> inside{};
    for (std::size_t i = 0; i < found.size(); ++i) inside[i] = found[i].solid;
    reading.on = memory->take({inside.data(), found.size()}, keeps, (events & used_by) != 0);
}

template <int D>
bool MountedProbe<D>::is_of_side(const MoveContact<D>& contact, Side asked, const Vec<D>& up) const noexcept {
    const double from_up = angle_between<D>(contact.normal, up);
    const Side is = from_up <= side_within + tolerance::angle                      ? Side::below
                    : from_up >= std::numbers::pi - side_within - tolerance::angle ? Side::above
                                                                                   : Side::beside;
    return is == asked;
}

template <int D>
void MountedProbe<D>::read_contacts(std::span<const MoveContact<D>> contacts, const Vec<D>& up,
                                    Reading<D>& reading) const noexcept {
    bool others = false;
    double best = -infinity;
    for (const MoveContact<D>& contact : contacts) {
        if ((contact.layer & sees) == 0) continue;
        if (contact.found_along && *contact.found_along != side) {
            others = others || is_of_side(contact, *contact.found_along, up);
            continue;
        }
        if (!is_of_side(contact, side, up)) {
            others = true;
            continue;
        }
        // The squarest one is told of.
        const double square =
            side == Side::beside ? -std::abs(contact.normal.dot(up)) : std::abs(contact.normal.dot(up));
        reading.met = true;
        if (square <= best) continue;
        best = square;
        reading.hit.normal = contact.normal;
        reading.hit.point = contact.point;
        reading.hit.solid = contact.solid;
        reading.hit.piece = contact.piece;
        reading.hit.layer = static_cast<std::uint32_t>(std::countr_zero(contact.layer));
    }
    reading.on = reading.met && !(match == Match::only && others);
}

template struct TurnedShape<2>;
template struct TurnedShape<3>;
template struct MountedProbe<2>;
template struct MountedProbe<3>;

}  // namespace hollow_probe

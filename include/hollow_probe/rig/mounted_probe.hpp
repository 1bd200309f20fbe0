// A probe in level orientation, and how it is read.
#pragma once

#include <bit>
#include <optional>

#include "hollow_probe/level/level_cast.hpp"
#include "hollow_probe/rig/memory.hpp"
#include "hollow_probe/rig/query_back_end.hpp"
#include "hollow_probe/rig/rig.hpp"
#include "hollow_probe/rig/situation.hpp"

namespace hollow_probe {

/// What one probe returned at one pose.
template <int D>
struct Reading {
    bool on = false;        // something was hit and accepted
    bool met = false;       // something was hit; `hit` says what
    bool own_body = false;  // … the body itself: the hit's piece, solid and layer are of no meaning
    LevelHit<D> hit;        // the accepted hit; when none was, the first one; when nothing was hit, of no
                            // meaning. Zones and shifts: the deepest overlap
    std::uint64_t lines_on = 0;       // of a spread, one bit a line
    std::size_t solids = 0;           // zones: how many are inside
    bool unread = false;              // the probe that it follows is off
    Vec<D> carried = Vec<D>::zero();  // how far that one carried its start
};

/// What of a reading is wanted.
enum class Wanted : std::uint8_t {
    all,
    if_on,  // whether it is on, and then its hit: what else was met is left out
    on,     // whether it is on, and nothing else: no line is read once that is known
};

/// The bits by which a world tells layers, and when some are open only at some speeds.
struct SeenLayers {
    LayerSet always = 0;
    std::vector<SpeedGate> at_speeds;

    [[nodiscard]] LayerSet at(double speed) const noexcept {
        LayerSet layers = always;
        for (const SpeedGate& gate : at_speeds) layers |= gate.open_at(speed) ? gate.bit : 0;
        return layers;
    }
};

/// A shape in body coordinates that is turned to headings again and again.
template <int D>
struct TurnedShape {
    explicit TurnedShape(const RoundedHull<D>& shape);
    RoundedHull<D> upright;
    RoundedHull<D> mirrored;  // its forward turned backward, for 2D bodies that head left

    /// Allocates nothing if `result` has as many points.
    void put(RoundedHull<D>& result, const Mat<D>& frame) const;
};

/// A probe in level orientation, relative to the anchor.
template <int D>
struct MountedProbe {
    /// `own` is the bit of the body's own layer, or 0.
    MountedProbe(const Probe<D>& probe, const RoundedHull<D>& stance, SeenLayers seen, LayerSet own);
    /// As a level has the layers, for one stance; turned to a situation.
    MountedProbe(const Probe<D>& probe, const Rig<D>& rig, const Level<D>& level, std::size_t stance,
                 const Situation<D>& situation);

    /// Makes it start beyond what another one hits.
    void follow(const MountedProbe& leader);
    /// Makes it start elsewhere, in body coordinates, as if made of such a probe; one that has a start. To be
    /// aimed again. Allocates nothing.
    void start_at(const Vec<D>& from) noexcept;
    /// Turns it, and what it follows, to a situation. Allocates nothing.
    void aim(const Situation<D>& situation, const Vec<D>& up) noexcept;
    /// Whether it is aimed the same in both situations.
    [[nodiscard]] bool aims_alike(const Situation<D>& a, const Situation<D>& b) const noexcept;

    ProbeKind kind = ProbeKind::ray;
    RoundedHull<D> shape;             // for a ray a single point; shift: the stance less the inset
    std::vector<ProbeLine<D>> lines;  // one for no spread
    double reach = 0.0;               // of the present situation
    LayerSet sees = 0;
    AngleRange accept;
    Take take = Take::first;
    Reads reads = Reads::after_move;
    Faces faces = Faces::both;
    IfInside if_inside = IfInside::report;
    OneWay one_way = OneWay::as_body;
    double sunk = 0.0;  // the intent's touch: so deep a body may be in a one-way solid and stand on it
    Keeps keeps = Keeps::set;
    Match match = Match::includes;
    Side side = Side::below;
    double side_within = 0.0;            // radians
    int least = 1;                       // lines that must be on
    bool meets_own_body = false;         // the body's own layer is seen, and it is not ignored
    bool mounted = true;                 // in the present stance
    bool aimed = true;                   // it has a direction in the present situation
    std::size_t zone = 0;                // number among the zones
    std::vector<MountedProbe> followed;  // the probe that it follows: one, or none

    /// What it was made of.
    [[nodiscard]] const Probe<D>& probe() const { return probe_; }
    /// The shape in body coordinates.
    [[nodiscard]] const RoundedHull<D>& upright() const { return turned_.upright; }
    [[nodiscard]] bool is_line() const { return kind == ProbeKind::ray || kind == ProbeKind::cast; }
    /// Where a shift puts the stance, from the anchor.
    [[nodiscard]] Vec<D> displacement() const { return reach * lines.front().along; }
    /// Where a line started, from the anchor, when the probe was read.
    [[nodiscard]] Vec<D> start(std::size_t line, const Reading<D>& reading) const {
        return lines[line].from + reading.carried;
    }
    /// How far one that follows it is carried by what it read; nothing where it is off.
    [[nodiscard]] std::optional<Vec<D>> carries(const Reading<D>& reading) const noexcept {
        if (!reading.on) return std::nullopt;
        return reading.carried + reading.hit.distance * lines.front().along;
    }
    [[nodiscard]] LevelCast<D> cast(std::size_t line, const Vec<D>& anchor) const {
        return {shape.view(),
                anchor + lines[line].from,
                lines[line].along,
                reach,
                sees,
                if_inside,
                Seams::passed,
                one_way,
                faces,
                sunk};
    }
    /// All that the probe may meet, relative to the anchor.
    [[nodiscard]] Bounds<D> bounds() const;

    /// `body` is the stance in level orientation. What it follows is read before, at the same anchor. A zone
    /// remembers in `memory`, if given, and is told which events happened; without one it is as if it kept
    /// the set. Allocates nothing, never throws.
    template <QueryBackEnd<D> World>
    Reading<D> read(const World& world, const Vec<D>& up, const RoundedHull<D>& body, const Vec<D>& anchor,
                    std::span<const MoveContact<D>> contacts = {}, ZoneMemory* memory = nullptr,
                    std::uint64_t events = 0, Wanted wanted = Wanted::all) const noexcept;
    /// … where what it follows has been read already, and carries it so far.
    template <QueryBackEnd<D> World>
    Reading<D> read_carried(const World& world, const Vec<D>& up, const RoundedHull<D>& body,
                            const Vec<D>& anchor, const std::optional<Vec<D>>& carried,
                            ZoneMemory* memory = nullptr, std::uint64_t events = 0,
                            Wanted wanted = Wanted::all) const noexcept;
    /// … on a level.
    [[nodiscard]] Reading<D> read(const Level<D>& level, const RoundedHull<D>& body, const Vec<D>& anchor,
                                  std::span<const MoveContact<D>> contacts = {},
                                  Wanted wanted = Wanted::all) const noexcept {
        return read(LevelBackEnd<D>(level), level.up(), body, anchor, contacts, nullptr, 0, wanted);
    }

    /// Takes what its lines read into a reading; `first(line, angles, hit)` finds a line's first hit within
    /// angles.
    template <class First>
    void read_lines(const Vec<D>& up, const RoundedHull<D>& body, First first, Reading<D>& reading,
                    Wanted wanted) const noexcept;

    std::uint64_t used_by = 0;  // until_used: the bit of the event

  private:
    template <QueryBackEnd<D> World>
    Reading<D> read_from(const World& world, const Vec<D>& up, const RoundedHull<D>& body,
                         const Vec<D>& anchor, std::span<const MoveContact<D>> contacts, ZoneMemory* memory,
                         std::uint64_t events, Wanted wanted) const noexcept;
    template <class First>
    void read_line(std::size_t line, const Vec<D>& up, const RoundedHull<D>& body, First first,
                   Reading<D>& reading, int& on, Wanted wanted) const noexcept;
    void read_zone(std::span<const LevelNeighbour<D>> found, std::size_t count, ZoneMemory* memory,
                   std::uint64_t events, Reading<D>& reading) const noexcept;
    void read_contacts(std::span<const MoveContact<D>> contacts, const Vec<D>& up,
                       Reading<D>& reading) const noexcept;
    [[nodiscard]] bool is_of_side(const MoveContact<D>& contact, Side side, const Vec<D>& up) const noexcept;
    bool meets_body(std::size_t line, const RoundedHull<D>& body, const Vec<D>& up, const AngleRange& angles,
                    LevelHit<D>& hit) const noexcept;
    static void take_overlap(const LevelNeighbour<D>& found, Reading<D>& reading) noexcept;

    Probe<D> probe_;
    LineProbe<D> line_;  // every kind is aimed as a line, a zone as one that goes nowhere
    ShiftAxes axes_ = ShiftAxes::both;
    TurnedShape<D> turned_;
    SeenLayers seen_;
};

template <int D>
template <class First>
void MountedProbe<D>::read_line(std::size_t line, const Vec<D>& up, const RoundedHull<D>& body, First first,
                                Reading<D>& reading, int& on, Wanted wanted) const noexcept {
    LevelHit<D> hit;
    bool own = false;
    const auto nearest = [&](const AngleRange& angles) {
        const bool any = first(angles, hit);
        own = false;
        LevelHit<D> of_body;
        if (meets_own_body && meets_body(line, body, up, angles, of_body) &&
            (!any || of_body.distance < hit.distance)) {
            hit = of_body;
            own = true;
        }
        return any || own;
    };
    bool line_on = false;
    bool met = false;
    if (take == Take::all) line_on = met = nearest(accept);
    if (!met && (take != Take::all || wanted == Wanted::all)) {
        met = nearest(AngleRange{});
        line_on = met && take == Take::first && within<D>(accept, hit.normal, lines[line].along, up);
    }
    if (!met) return;
    if (line_on) {
        ++on;
        reading.lines_on |= std::uint64_t{1} << line;
    }
    // Of those that are on the nearest, else of all.
    const bool any_on = (reading.lines_on & ((std::uint64_t{1} << line) - 1U)) != 0;
    const bool better =
        !reading.met || (line_on && !any_on) || (line_on == any_on && hit.distance < reading.hit.distance);
    reading.met = true;
    if (!better) return;
    reading.hit = hit;
    reading.own_body = own;
}

template <int D>
template <class First>
void MountedProbe<D>::read_lines(const Vec<D>& up, const RoundedHull<D>& body, First first,
                                 Reading<D>& reading, Wanted wanted) const noexcept {
    int on = 0;
    int left = static_cast<int>(lines.size());
    for (std::size_t line = 0; line < lines.size(); ++line, --left) {
        const bool is_known = on >= least || on + left < least;
        if (wanted == Wanted::on && is_known) break;
        const auto first_of_line = [&](const AngleRange& angles, LevelHit<D>& hit) {
            return first(line, angles, hit);
        };
        read_line(line, up, body, first_of_line, reading, on, wanted);
    }
    reading.on = on >= least;
}

template <int D>
template <QueryBackEnd<D> World>
Reading<D> MountedProbe<D>::read(const World& world, const Vec<D>& up, const RoundedHull<D>& body,
                                 const Vec<D>& anchor, std::span<const MoveContact<D>> contacts,
                                 ZoneMemory* memory, std::uint64_t events, Wanted wanted) const noexcept {
    if (followed.empty()) return read_from(world, up, body, anchor, contacts, memory, events, wanted);
    const MountedProbe& leader = followed.front();
    const Reading<D> led = leader.read(world, up, body, anchor, {}, nullptr, 0, Wanted::if_on);
    return read_carried(world, up, body, anchor, leader.carries(led), memory, events, wanted);
}

template <int D>
template <QueryBackEnd<D> World>
Reading<D> MountedProbe<D>::read_carried(const World& world, const Vec<D>& up, const RoundedHull<D>& body,
                                         const Vec<D>& anchor, const std::optional<Vec<D>>& carried,
                                         ZoneMemory* memory, std::uint64_t events,
                                         Wanted wanted) const noexcept {
    Reading<D> reading;
    if (carried) {
        reading = read_from(world, up, body, anchor + *carried, {}, memory, events, wanted);
        reading.carried = *carried;
        return reading;
    }
    // A zone that is nowhere is left by all that was in it.
    if (kind == ProbeKind::zone) read_zone({}, 0, memory, events, reading);
    reading.unread = true;
    return reading;
}

template <int D>
template <QueryBackEnd<D> World>
Reading<D> MountedProbe<D>::read_from(const World& world, const Vec<D>& up, const RoundedHull<D>& body,
                                      const Vec<D>& anchor, std::span<const MoveContact<D>> contacts,
                                      ZoneMemory* memory, std::uint64_t events,
                                      Wanted wanted) const noexcept {
    Reading<D> reading;
    if (kind == ProbeKind::contact) {
        read_contacts(contacts, up, reading);
        return reading;
    }
    if (!aimed) return reading;
    if (is_line()) {
        const auto first = [&](std::size_t line, const AngleRange& angles, LevelHit<D>& hit) {
            return world.first_hit(cast(line, anchor), angles, hit);
        };
        read_lines(up, body, first, reading, wanted);
        return reading;
    }
    // NOLINTNEXTLINE(cppcoreguidelines-pro-type-member-init): only what is found is read
    std::array<LevelNeighbour<D>, ZoneMemory::most> found;
    const Vec<D> moved = kind == ProbeKind::shift ? displacement() : Vec<D>::zero();
    const Vec<D> at = anchor + (kind == ProbeKind::shift ? moved : lines.front().from);
    const std::size_t count = world.overlapping({shape.view(), at, sees, one_way, moved, sunk}, found);
    read_zone(std::span(found).first(std::min(count, found.size())), count, memory, events, reading);
    return reading;
}

extern template struct TurnedShape<2>;
extern template struct TurnedShape<3>;
extern template struct MountedProbe<2>;
extern template struct MountedProbe<3>;

}  // namespace hollow_probe

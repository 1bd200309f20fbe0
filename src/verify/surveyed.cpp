#include "verify/surveyed.hpp"

#include <algorithm>

#include "hollow_probe/rig/touched.hpp"
#include "hollow_probe/truth/ground.hpp"
#include "hollow_probe/truth/rest.hpp"
#include "verify/column.hpp"
#include "verify/signal_truths.hpp"

namespace hollow_probe {
namespace {

/// What of a rig and a level makes the state of a body matter.
struct Matters {
    bool speed = false;
    bool memory = false;
    bool drive = false;
    bool grounded = false;
};

template <int D>
Matters what_matters(const Level<D>& level, const Rig<D>& rig) {
    Matters matters;
    const Forgiveness& forgive = rig.intent.forgive;
    matters.memory = has_memory(rig);
    matters.speed = forgive.late > 0.0 || forgive.early > 0.0 || forgive.after_take_off > 0.0;
    for (const Probe<D>& probe : rig.probes) {
        matters.speed = matters.speed || probe.reach_per_speed > 0.0 || probe.aim == Aim::velocity;
        matters.drive = matters.drive || probe.aim == Aim::drive;
        matters.grounded = matters.grounded || probe.reach_grounded.has_value();
    }
    for (const Signal& signal : rig.signals) {
        const bool by_speed = rig.intent.ahead_move == 0.0 && signal.claims == Claim::blocked;
        const Toward toward = toward_of<D>(rig, signal);
        matters.speed = matters.speed || by_speed || toward == Toward::velocity;
        matters.drive = matters.drive || toward == Toward::drive;
    }
    for (const Solid<D>& solid : level.solids()) {
        const auto& when = solid.sensed_when;
        matters.speed = matters.speed || (when && (when->slowest > 0.0 || when->fastest < infinity));
    }
    return matters;
}

template <int D>
std::vector<std::size_t> stances_of(const Rig<D>& rig, const std::vector<std::string>& names) {
    std::vector<std::size_t> stances;
    for (std::size_t i = 0; i < rig.body.stances.size(); ++i) {
        if (names.empty() || std::find(names.begin(), names.end(), rig.body.stances[i].name) != names.end())
            stances.push_back(i);
    }
    for (const std::string& name : names) {
        const bool known = std::any_of(rig.body.stances.begin(), rig.body.stances.end(),
                                       [&](const Stance<D>& stance) { return stance.name == name; });
        if (!known) throw InvalidInput("there is no stance '" + name + "'");
    }
    if (stances.empty()) throw InvalidInput("the body has no stance: expected at least one");
    return stances;
}

template <int D>
std::vector<Vec<D>> headings_of(const LevelAxes<D>& axes, int count) {
    if constexpr (D == 2) {
        return {axes.across[0], -axes.across[0]};
    } else {
        std::vector<Vec<3>> headings;
        for (int i = 0; i < count; ++i) {
            const double angle = 2.0 * std::numbers::pi * i / count;
            headings.push_back(
                (std::cos(angle) * axes.across[0] + std::sin(angle) * axes.across[1]).normalized());
        }
        return headings;
    }
}

template <int D>
std::vector<double> speeds_of(const Rig<D>& rig, const std::vector<double>& given) {
    for (const double speed : given) {
        if (!std::isfinite(speed) || speed < 0.0) throw InvalidInput("speeds must be 0 or more");
    }
    if (!given.empty()) return given;
    double tallest = 0.0;
    for (const Stance<D>& stance : rig.body.stances)
        tallest = std::max(tallest, stance.shape.bounds().size()[1]);
    return {2.5 * tallest};
}

template <int D>
std::vector<double> times_of(const Level<D>& level, const std::vector<double>& given) {
    for (const double time : given) {
        if (!std::isfinite(time)) throw InvalidInput("times must be finite");
    }
    if (!level.has_paths()) return {0.0};
    if (!given.empty()) return given;
    double longest = 0.0;
    for (const Solid<D>& solid : level.solids()) {
        if (solid.path) longest = std::max(longest, solid.path->period());
    }
    return {0.0, 0.25 * longest, 0.5 * longest, 0.75 * longest};
}

/// The direction in which a body arrives.
template <int D>
Vec<D> way_of(const Facing<D>& facing, const Vec<D>& up) {
    switch (facing.arrival) {
        case Arrival::stood:
            break;
        case Arrival::walked:
            return facing.heading;
        case Arrival::fell:
            return -up;
        case Arrival::jumped:
            return up;
    }
    return Vec<D>::Zero();
}

template <int D>
std::vector<Facing<D>> facings_of(const Level<D>& level, const Rig<D>& rig, const SurveyOptions& options) {
    if (options.headings < 1) throw InvalidInput("headings must be at least 1");
    const Matters matters = what_matters(level, rig);
    const LevelAxes<D> axes(level.up());
    const std::vector<double> times = times_of(level, options.times);
    std::vector<std::pair<Arrival, double>> arrivals = {{Arrival::stood, 0.0}};
    if (matters.speed || matters.memory) {
        for (const double speed : speeds_of(rig, options.speeds)) {
            if (speed == 0.0) continue;
            for (const Arrival arrival : {Arrival::walked, Arrival::fell, Arrival::jumped})
                arrivals.emplace_back(arrival, speed);
        }
    }
    std::vector<Facing<D>> facings;
    for (std::size_t moment = 0; moment < times.size(); ++moment) {
        for (const std::size_t stance : stances_of(rig, options.stances)) {
            for (const Vec<D>& heading : headings_of<D>(axes, options.headings)) {
                std::vector<Vec<D>> drives = {Vec<D>::Zero()};
                if (matters.drive) {
                    drives = {heading};
                    if (!rig.body.turns) drives.push_back(-heading);
                    if constexpr (D == 3) {
                        const Vec<3> right = heading.cross(axes.up);
                        if (!rig.body.turns) drives.insert(drives.end(), {right, -right});
                    }
                }
                for (const auto& [arrival, speed] : arrivals) {
                    for (const Vec<D>& drive : drives) {
                        Facing<D> facing{stance, heading, arrival, Vec<D>::Zero(),
                                         drive,  false,   moment,  times[moment]};
                        facing.velocity = speed * way_of<D>(facing, axes.up);
                        facings.push_back(facing);
                        facing.grounded = true;
                        if (matters.grounded) facings.push_back(facing);
                    }
                }
            }
        }
    }
    if (facings.size() > 65535) throw InvalidInput("there are more than 65,535 states to survey");
    return facings;
}

template <int D>
double width_of_narrowest(const Rig<D>& rig, const std::vector<Facing<D>>& facings) {
    double narrowest = infinity;
    for (const Facing<D>& facing : facings) {
        const Vec<D> size = rig.body.stances[facing.stance].shape.bounds().size();
        narrowest = std::min(narrowest, D == 2 ? size[0] : std::min(size[0], size[D - 1]));
    }
    return narrowest;
}

template <int D>
double widest_half(const Rig<D>& rig) {
    double widest = 0.0;
    for (const Stance<D>& stance : rig.body.stances) {
        const Bounds<D> bounds = stance.shape.bounds();
        for (int axis = 0; axis < D; ++axis) {
            if (axis != 1)
                widest = std::max({widest, std::abs(bounds.low[axis]), std::abs(bounds.high[axis])});
        }
    }
    return widest * (D == 3 ? std::numbers::sqrt2 : 1.0);
}

template <int D>
std::optional<Bounds<D>> region_of(const Level<D>& level, const SurveyOptions& options) {
    std::optional<Bounds<D>> region;
    if (!options.area.empty()) {
        const Area<D>* const area = level.find_area(options.area);
        if (area == nullptr) throw InvalidInput("the level has no area '" + options.area + "'");
        region = area->box;
    }
    if (options.region.empty()) return region;
    if (options.region.size() != 2 * D) {
        throw InvalidInput("region has " + std::to_string(options.region.size()) + " numbers, expected " +
                           std::to_string(2 * D) + ": its low corner and then its high one");
    }
    Bounds<D> box;
    for (int axis = 0; axis < D; ++axis) {
        box.low[axis] = options.region[static_cast<std::size_t>(axis)];
        box.high[axis] = options.region[static_cast<std::size_t>(axis + D)];
    }
    if (!(box.low.array() < box.high.array()).all())
        throw InvalidInput("region is empty: expected its low corner below its high one along every axis");
    if (!region) return box;
    region->low = region->low.cwiseMax(box.low);
    region->high = region->high.cwiseMin(box.high);
    if (!(region->low.array() < region->high.array()).all())
        throw InvalidInput("region and area have nothing in common");
    return region;
}

template <int D>
using Extents = std::array<std::array<double, 2>, D - 1>;

/// The least and greatest n·p over all pieces, their radii included.
template <int D>
std::array<double, 2> extent_of(const Level<D>& level, const Vec<D>& n) {
    for (int axis = 0; axis < D; ++axis) {
        if (n[axis] == 1.0) return {level.bounds().low[axis], level.bounds().high[axis]};
    }
    double low = infinity;
    double high = -infinity;
    for (std::uint32_t piece = 0; piece < level.piece_count(); ++piece) {
        const HullView<D> hull = level.piece(piece);
        const auto [a, b] = extent_along(hull, n);
        low = std::min(low, a - hull.radius);
        high = std::max(high, b + hull.radius);
    }
    return {low, high};
}

/// Every place from which the level can be felt so far beside the anchor, within the region.
template <int D>
Extents<D> extents_of(const std::vector<const Level<D>*>& levels, const LevelAxes<D>& axes, double half_width,
                      const std::optional<Bounds<D>>& region) {
    Extents<D> extents;
    for (std::size_t axis = 0; axis + 1 < D; ++axis) {
        double low = infinity;
        double high = -infinity;
        for (const Level<D>* level : levels) {
            const auto [a, b] = extent_of(*level, axes.across[axis]);
            low = std::min(low, a);
            high = std::max(high, b);
        }
        extents[axis] = {low - half_width, high + half_width};
        if (!region) continue;
        const auto box = RoundedHull<D>::box(region->center(), region->size());
        const auto [a, b] = extent_along(box.view(), axes.across[axis]);
        extents[axis] = {std::max(a, extents[axis][0]), std::min(b, extents[axis][1])};
        if (extents[axis][0] >= extents[axis][1])
            throw InvalidInput("the region lies beside the level: nothing is left to survey");
    }
    return extents;
}

template <int D>
std::vector<const Level<D>*> pointers(const Level<D>& level, const std::deque<Level<D>>& moments) {
    std::vector<const Level<D>*> levels = {&level};
    for (const Level<D>& moment : moments) levels.push_back(&moment);
    return levels;
}

template <int D>
std::deque<Level<D>> moments_of(const Level<D>& level, const SurveyOptions& options) {
    std::deque<Level<D>> moments;
    if (!level.has_paths()) return moments;
    for (const double seconds : times_of(level, options.times)) moments.push_back(level.at(seconds));
    return moments;
}

/// How many ticks a rig looks back, at the speed given.
template <int D>
std::size_t ticks_remembered(const Rig<D>& rig, const SurveyOptions& options, double body_size) {
    if (!has_memory(rig)) return 0;
    constexpr double most = 240.0;
    double seconds = 0.0;
    for (const Signal& signal : rig.signals)
        seconds = std::max({seconds, signal.settle, signal.grace, signal.mute_after.seconds});
    double ticks = std::ceil(seconds / options.tick_seconds) + 2.0;
    for (const Probe<D>& probe : rig.probes) {
        if (probe.kind != ProbeKind::zone || probe.keeps == Keeps::set) continue;
        for (const double speed : speeds_of(rig, options.speeds)) {
            if (speed > 0.0)
                ticks = std::max(ticks, std::ceil(2.0 * body_size / (speed * options.tick_seconds)));
        }
    }
    return static_cast<std::size_t>(std::min(ticks, most));
}

/// How many poses are asked over the whole extents (2D: a length, 3D: an area) for each unit of it, times its
/// size: told from a few columns.
template <int D>
double asked_over(const Surveyed<D>& s, const Extents<D>& extents) {
    double ground = 1.0;
    for (const auto& [low, high] : extents) ground *= high - low;
    constexpr double columns = 256.0;
    const Grid<D> coarse(s.grid.axes, extents, D == 2 ? ground / columns : std::sqrt(ground / columns), 0);
    double asked = 0.0;
    const Enclosed<D> enclosed(s.level_of(0));
    for (std::size_t facing = 0; facing < s.facings.size(); ++facing) {
        const ColumnJudge<D> judge(s, facing, enclosed);
        for (std::size_t i = 0; i < coarse.column_count(); ++i)
            asked += static_cast<double>(judge.decide(coarse.place(i)).judged);
    }
    return asked / static_cast<double>(coarse.column_count()) * ground;
}

template <int D>
double chosen_spacing(const Surveyed<D>& s, const SurveyOptions& options, const Extents<D>& extents) {
    if (!std::isfinite(options.spacing) || options.spacing < 0.0)
        throw InvalidInput("spacing must be more than 0");
    if (options.spacing > 0.0) return options.spacing;
    if (options.budget == 0) return 0.25 * s.narrowest_width;
    const double whole = asked_over<D>(s, extents);
    if (whole == 0.0) return 0.25 * s.narrowest_width;  // there is nothing to judge
    const double share = whole / static_cast<double>(options.budget);
    return D == 2 ? share : std::sqrt(share);
}

}  // namespace

template <int D>
Surveyed<D>::Surveyed(const Level<D>& given_level, const Rig<D>& given_rig, const SurveyOptions& options)
    : level(given_level),
      rig((check(given_rig), given_rig)),
      facings(facings_of(level, rig, options)),
      half_width(widest_half(rig)),
      narrowest_width(width_of_narrowest(rig, facings)),
      region(region_of(level, options)),
      spacing(0.0),
      grid({LevelAxes<D>(level.up()), {}, 1.0, 0}),
      border_width(0.0),
      tick_seconds(options.tick_seconds),
      most_kept(options.most_kept),
      moments(moments_of(level, options)) {
    if (!std::isfinite(tick_seconds) || tick_seconds <= 0.0)
        throw InvalidInput("tick_seconds must be more than 0");
    if (most_kept < 1000) throw InvalidInput("most_kept must be at least 1000");
    for (std::size_t i = 0; i < facings.size(); ++i) {
        mounted.emplace_back(rig, level_of(i), facings[i].stance, situation(i));
        const HullView<D> body = mounted.back().body.view();
        body_size = std::max(body_size, bounds_of(body).size().norm());
    }
    for (const Probe<D>& probe : rig.probes)
        feels_contacts = feels_contacts || probe.kind == ProbeKind::contact;
    ticks_before = ticks_remembered(rig, options, body_size);
    const Forgiveness& forgive = rig.intent.forgive;
    const double remembered = std::max(forgive.late, forgive.after_take_off) / tick_seconds;
    ticks_of_way =
        std::max(ticks_before, static_cast<std::size_t>(std::min(std::ceil(remembered + 1.0), 240.0)));
    if (ticks_before == 0 && remembered == 0.0) ticks_of_way = 0;
    double widest = half_width;
    for (std::size_t i = 0; i < facings.size(); ++i) {
        const Bounds<D> reach = Feelers<D>(*this, i).reach;
        Vec<D> across = reach.low.cwiseAbs().cwiseMax(reach.high.cwiseAbs());
        across[1] = 0.0;
        widest = std::max(widest, across.norm());
    }
    const Extents<D> extents = extents_of<D>(pointers(level, moments), grid.axes, widest, region);
    spacing = chosen_spacing<D>(*this, options, extents);
    grid = Grid<D>(grid.axes, extents, spacing, options.seed);
    // Halving must stop alike everywhere.
    const double standard = D == 2 ? 1.0 / 256.0 : 1.0 / 16.0;
    const double fraction = options.border_fraction > 0.0 ? options.border_fraction : standard;
    border_width = grid.spacing * fraction * (1.0 + 1e-9);
}

template <int D>
Situation<D> Surveyed<D>::situation(std::size_t facing) const {
    const Facing<D>& f = facings[facing];
    return {f.heading, f.velocity, f.drive, f.grounded};
}

template <int D>
std::vector<MoveContact<D>> Surveyed<D>::contacts(const MountedRig<D>& rig_there, std::size_t facing,
                                                  const Vec<D>& anchor) const {
    return touched_by<D>(level_of(facing), rig_there, anchor, rig.intent.touch);
}

template <int D>
typename Surveyed<D>::Way Surveyed<D>::way_to(std::size_t facing, const Vec<D>& anchor,
                                              double above_rest) const {
    const MountedRig<D>& rig_there = mounted[facing];
    const Facing<D>& f = facings[facing];
    const Level<D>& here = level_of(facing);
    const Vec<D>& up = level.up();
    const Vec<D> stride = tick_seconds * f.velocity;
    Way way;
    way.facing = facing;
    way.anchors.push_back(anchor);
    const auto fits = [&](const Vec<D>& at) {
        return !clip<D>(here, placed_body<D>(rig_there, at), rig.intent).on;
    };
    if (ticks_of_way == 0) {
        // Only where it is counts.
    } else if (f.arrival == Arrival::jumped) {
        // Back down to the ground it took off from, where it stood.
        Vec<D> at = anchor - stride;
        double left = above_rest - stride.norm();
        while (left > 0.0 && way.anchors.size() < ticks_of_way && fits(at)) {
            way.anchors.push_back(at);
            at -= stride;
            left -= stride.norm();
        }
        // Far from any ground it has been on its way for longer than is remembered.
        const bool from_ground = above_rest > 0.0 && std::isfinite(above_rest);
        const Vec<D> ground = from_ground ? Vec<D>(anchor - above_rest * up) : way.anchors.back();
        const std::size_t flight = way.anchors.size();
        for (std::size_t i = 0; i < ticks_of_way; ++i) way.anchors.push_back(ground);
        way.jump = way.anchors.size() - flight;
    } else {
        const bool on_ground = f.arrival == Arrival::walked && std::abs(above_rest) <= rig.intent.touch;
        std::vector<double> heights_there;
        Vec<D> at = anchor;
        for (std::size_t i = 0; i < ticks_of_way; ++i) {
            at -= stride;
            if (on_ground) {
                // Over whatever it could have walked on.
                const double now = up.dot(at) - above_rest;
                find_rests<D>(here, {rig_there.body.view(), at - up.dot(at) * up, rig_there.meets},
                              rig.intent, heights_there, nullptr, Held::from_below,
                              {now - rig.intent.tallest_step, now + rig.intent.tallest_step});
                double best = infinity;
                for (const double height : heights_there) {
                    if (std::abs(height - now) < std::abs(best)) best = height - now;
                }
                if (std::abs(best) <= rig.intent.tallest_step) at += best * up;
            }
            if (!stride.isZero() && !fits(at)) break;
            way.anchors.push_back(at);
        }
    }
    std::reverse(way.anchors.begin(), way.anchors.end());
    if (feels_contacts) {
        for (const Vec<D>& at : way.anchors) way.touched.push_back(contacts(rig_there, facing, at));
    }
    return way;
}

template <int D>
Tick<D> Surveyed<D>::tick_at(const Way& way, std::size_t number) const {
    const Vec<D>& before = way.anchors[number > 0 ? number - 1 : 0];
    const std::uint64_t events = number == way.jump ? ~std::uint64_t{0} : 0;
    Tick<D> now{way.anchors[number], before, tick_seconds, events, {}};
    if (feels_contacts) now.contacts = way.touched[number];
    return now;
}

template <int D>
void Surveyed<D>::read_along(Way& way) const {
    if (ticks_before == 0) return;
    const MountedRig<D>& rig_there = mounted[way.facing];
    RigMemory memory = rig_there.memory();
    std::vector<Reading<D>> readings(rig_there.probes.size());
    for (std::size_t i = 0; i < way.anchors.size(); ++i) {
        rig_there.tick(level_of(way.facing), tick_at(way, i), memory, readings);
        std::uint64_t on = 0;
        for (std::size_t k = 0; k < readings.size(); ++k) {
            if (rig_there.probes[k].mounted) on |= rig_there.bits_of(k, readings[k]);
        }
        way.on.push_back(on);
    }
}

template <int D>
std::uint64_t Surveyed<D>::signals_after(const MountedRig<D>& rig_there, const Way& way) const {
    RigMemory memory = rig_there.memory();
    std::uint64_t signals = 0;
    for (std::size_t i = 0; i < way.anchors.size(); ++i)
        signals = rig_there.remember(way.on[i], tick_at(way, i), memory);
    return signals;
}

template <int D>
Heard Surveyed<D>::hear(const MountedRig<D>& rig_there, const Way& way,
                        std::span<Reading<D>> readings) const {
    const Level<D>& here = level_of(way.facing);
    if (ticks_before == 0) {
        const Tick<D> now = tick_at(way, way.anchors.size() - 1);
        const std::uint64_t on = rig_there.probes_on(here, now.anchor, readings, now.contacts);
        return {on, rig_there.signals_on(on)};
    }
    RigMemory memory = rig_there.memory();
    std::vector<Reading<D>> own(readings.empty() ? rig_there.probes.size() : 0);
    const std::span<Reading<D>> read = readings.empty() ? std::span<Reading<D>>(own) : readings;
    Heard heard;
    for (std::size_t i = 0; i < way.anchors.size(); ++i)
        heard.signals_on = rig_there.tick(here, tick_at(way, i), memory, read);
    for (std::size_t i = 0; i < read.size(); ++i) {
        if (rig_there.probes[i].mounted) heard.probes_on |= rig_there.bits_of(i, read[i]);
    }
    return heard;
}

template <int D>
std::optional<SurveyPose<D>> Surveyed<D>::judge(std::size_t facing, const Vec<D>& anchor,
                                                double above_rest) const {
    const MountedRig<D>& rig_here = mounted[facing];
    SurveyPose<D> pose;
    pose.anchor = anchor;
    pose.above_rest = above_rest;
    pose.facing = static_cast<std::uint16_t>(facing);
    const PlacedBody<D> body = placed_body<D>(rig_here, pose.anchor);
    const Level<D>& here = level_of(facing);
    if (clip<D>(here, body, rig.intent).on) return std::nullopt;
    Known<D> known;
    const SignalTruths truths =
        truths_of_signals<D>(here, rig, rig_here, situation(facing), pose.anchor, known);
    const Heard heard = hear(rig_here, pose);
    pose.probes_on = heard.probes_on;
    pose.signals_on = heard.signals_on;
    pose.truths_on = truths.on | (heard.signals_on & helpers_of<D>(rig));
    pose.undecided = truths.undecided;
    return pose;
}

template struct Surveyed<2>;
template struct Surveyed<3>;

}  // namespace hollow_probe

#include "verify/survey_plan.hpp"

#include <algorithm>
#include <numbers>

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
        const Aim* const aim = aim_of(probe);
        if (aim == nullptr) continue;
        matters.speed = matters.speed || *reach_per_speed_of(probe) > 0.0 || *aim == Aim::velocity;
        matters.drive = matters.drive || *aim == Aim::drive;
        matters.grounded = matters.grounded || reach_grounded_of(probe)->has_value();
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
            // A quarter turn is one to the last digit, so that boxes turned by it are the same boxes.
            const auto exactly = [](double x) { return std::abs(x) < 1e-15 ? 0.0 : x; };
            headings.push_back(
                (exactly(std::cos(angle)) * axes.across[0] + exactly(std::sin(angle)) * axes.across[1])
                    .normalized());
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
    return Vec<D>::zero();
}

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

}  // namespace

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
                std::vector<Vec<D>> drives = {Vec<D>::zero()};
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
                        Facing<D> facing{stance, heading, arrival, Vec<D>::zero(),
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
    if (options.region.size() != std::size_t{2} * D) {
        throw InvalidInput("region has " + std::to_string(options.region.size()) + " numbers, expected " +
                           std::to_string(2 * D) + ": its low corner and then its high one");
    }
    Bounds<D> box;
    for (int axis = 0; axis < D; ++axis) {
        box.low[axis] = options.region[static_cast<std::size_t>(axis)];
        box.high[axis] = options.region[static_cast<std::size_t>(axis) + D];
    }
    if (!all_below(box.low, box.high))
        throw InvalidInput("region is empty: expected its low corner below its high one along every axis");
    if (!region) return box;
    region->low = region->low.max(box.low);
    region->high = region->high.min(box.high);
    if (!all_below(region->low, region->high)) throw InvalidInput("region and area have nothing in common");
    return region;
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
std::deque<Level<D>> moments_of(const Level<D>& level, const SurveyOptions& options) {
    std::deque<Level<D>> moments;
    if (!level.has_paths()) return moments;
    for (const double seconds : times_of(level, options.times)) moments.push_back(level.at(seconds));
    return moments;
}

namespace {

/// Follows what signals remember down to the probes they are made from.
template <int D>
class Remembering {
  public:
    Remembering(const Rig<D>& rig, double tick_seconds)
        : rig_(rig),
          tick_seconds_(tick_seconds),
          of_signal_(rig.signals.size()),
          of_probe_(rig.probes.size()) {
        // Members are declared before what is made from them.
        for (std::size_t i = rig.signals.size(); i-- > 0;) {
            const Signal& signal = rig.signals[i];
            of_signal_[i] += in_ticks(signal.settle + signal.grace);
            look_back(signal.members, of_signal_[i]);
        }
    }

    [[nodiscard]] std::size_t in_ticks(double seconds) const {
        return seconds > 0.0 ? within_most(std::ceil(seconds / tick_seconds_) + 2.0) : 0;
    }
    static std::size_t within_most(double ticks) {
        constexpr double most = 240.0;
        return static_cast<std::size_t>(std::min(ticks, most));
    }
    std::vector<std::size_t>& of_probe() { return of_probe_; }
    /// For how many ticks it matters that something happened: what it muted is remembered in its turn.
    [[nodiscard]] std::size_t of_events() const {
        std::size_t most = 0;
        for (std::size_t i = 0; i < rig_.signals.size(); ++i) {
            const std::size_t muted = in_ticks(rig_.signals[i].mute_after.seconds);
            if (muted > 0) most = std::max(most, of_signal_[i] + muted);
        }
        return within_most(static_cast<double>(most));
    }

  private:
    void look_back(const Group& group, std::size_t ticks) {
        for (const auto* const members : {&group.any, &group.all, &group.none, &group.at_least.of}) {
            for (const Member& member : *members) {
                for (const Group& inner : member.group) look_back(inner, ticks);
                raise(rig_.probes, of_probe_, member.name, ticks);
                raise(rig_.signals, of_signal_, member.name, ticks);
            }
        }
    }
    template <class Named>
    static void raise(const std::vector<Named>& all, std::vector<std::size_t>& of, const std::string& name,
                      std::size_t ticks) {
        for (std::size_t i = 0; i < all.size(); ++i) {
            if (all[i].name == name) of[i] = std::max(of[i], ticks);
        }
    }

    const Rig<D>& rig_;
    double tick_seconds_;
    std::vector<std::size_t> of_signal_;
    std::vector<std::size_t> of_probe_;
};

}  // namespace

template <int D>
TicksRemembered ticks_remembered(const Rig<D>& rig, const SurveyOptions& options, double body_size) {
    if (!has_memory(rig)) return {0, std::vector<std::size_t>(rig.probes.size()), 0};
    Remembering<D> remembering(rig, options.tick_seconds);
    TicksRemembered ticks{std::max<std::size_t>(2, remembering.of_events()),
                          std::move(remembering.of_probe()), 0};
    for (const std::size_t of_probe : ticks.of_probe) ticks.of_signals = std::max(ticks.of_signals, of_probe);
    for (std::size_t i = rig.probes.size(); i-- > 0;) {
        const Probe<D>& probe = rig.probes[i];
        auto back = static_cast<double>(ticks.of_probe[i]);
        // What a zone was told last, until whatever is inside has passed.
        if (probe.kind() == ProbeKind::zone && probe.zone().keeps != Keeps::set) {
            double passing = 0.0;
            for (const double speed : speeds_of(rig, options.speeds)) {
                if (speed > 0.0)
                    passing = std::max(passing, std::ceil(2.0 * body_size / (speed * options.tick_seconds)));
            }
            back += passing;
        }
        if (probe.reads.value_or(rig.reads) == Reads::before_move) back += 1.0;
        ticks.of_probe[i] = Remembering<D>::within_most(back);
        ticks.all = std::max(ticks.all, ticks.of_probe[i]);
        for (std::size_t leader = 0; leader < i; ++leader) {
            if (rig.probes[leader].name == probe.follows)
                ticks.of_probe[leader] = std::max(ticks.of_probe[leader], ticks.of_probe[i]);
        }
    }
    return ticks;
}

template std::vector<Facing<2>> facings_of<2>(const Level<2>&, const Rig<2>&, const SurveyOptions&);
template std::vector<Facing<3>> facings_of<3>(const Level<3>&, const Rig<3>&, const SurveyOptions&);
template double width_of_narrowest<2>(const Rig<2>&, const std::vector<Facing<2>>&);
template double width_of_narrowest<3>(const Rig<3>&, const std::vector<Facing<3>>&);
template double widest_half<2>(const Rig<2>&);
template double widest_half<3>(const Rig<3>&);
template std::optional<Bounds<2>> region_of<2>(const Level<2>&, const SurveyOptions&);
template std::optional<Bounds<3>> region_of<3>(const Level<3>&, const SurveyOptions&);
template Extents<2> extents_of<2>(const std::vector<const Level<2>*>&, const LevelAxes<2>&, double,
                                  const std::optional<Bounds<2>>&);
template Extents<3> extents_of<3>(const std::vector<const Level<3>*>&, const LevelAxes<3>&, double,
                                  const std::optional<Bounds<3>>&);
template std::deque<Level<2>> moments_of<2>(const Level<2>&, const SurveyOptions&);
template std::deque<Level<3>> moments_of<3>(const Level<3>&, const SurveyOptions&);
template TicksRemembered ticks_remembered<2>(const Rig<2>&, const SurveyOptions&, double);
template TicksRemembered ticks_remembered<3>(const Rig<3>&, const SurveyOptions&, double);

}  // namespace hollow_probe

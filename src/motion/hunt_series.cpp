#include "hollow_probe/motion/hunt_series.hpp"

#include <algorithm>
#include <map>

#include "geometry/together.hpp"

namespace hollow_probe {

template <class Archive, int D>
void members(Archive& archive, Cue<D>& cue) {
    archive(cue.at);
    members(archive, cue.drive);
    members(archive, cue.heading);
    members(archive, cue.press);
    members(archive, cue.stance);
}

template <class Archive>
void members(Archive& archive, Expectation& expectation) {
    archive(expectation.kind);
    members(archive, expectation.figure);
    members(archive, expectation.signal);
    archive(expectation.limit);
    members(archive, expectation.area);
}

/// What a found drill has of its own.
template <class Archive, int D>
void members(Archive& archive, Drill<D>& drill) {
    members(archive, drill.cues);
    archive(drill.seconds);
    archive(drill.phase);
    members(archive, drill.expectations);
}

template <class Archive>
void members(Archive& archive, Broken& broken) {
    archive(broken.expectation);
    archive(broken.got);
    archive(broken.seconds);
    members(archive, broken.at);
}

template <class Archive>
void members(Archive& archive, SignalFigures& figures) {
    members(archive, figures.name);
    members(archive, figures.claims);
    for (std::size_t* count :
         {&figures.missed_ticks, &figures.false_ticks, &figures.undecided_ticks, &figures.forgiven_ticks,
          &figures.onset_latency, &figures.release_latency, &figures.flicker, &figures.changes})
        archive(*count);
    archive(figures.value_error);
    members(archive, figures.first_missed);
    members(archive, figures.first_false);
}

template <class Archive>
void members(Archive& archive, DrillFigures& figures) {
    members(archive, figures.signals);
    for (std::size_t* count :
         {&figures.ticks, &figures.jumps, &figures.refused_jumps, &figures.unearned_jumps,
          &figures.lost_presses, &figures.double_presses, &figures.lost_take_offs, &figures.tunnels,
          &figures.endless_creeps, &figures.held_turns, &figures.crushed_ticks})
        archive(*count);
    for (double* amount : {&figures.hang_time, &figures.hover_time, &figures.cling_time, &figures.idle_drift,
                           &figures.wall_gap, &figures.deepest_clip, &figures.climb, &figures.bumpiness,
                           &figures.headway, &figures.stuck_time, &figures.carried_drift})
        archive(*amount);
}

namespace {

/// What is told of a hunt.
template <int D>
struct ToldHunt {
    HuntResult<D> hunt;

    template <class Archive>
    friend void members(Archive& archive, ToldHunt& told) {
        HuntResult<D>& result = told.hunt;
        members(archive, result.found);
        members(archive, result.broken);
        members(archive, result.figures);
        archive(result.cues_before);
        archive(result.seconds_before);
        archive(result.drills);
        archive(result.ticks);
        members(archive, result.expectations);
        members(archive, result.nearest);
        archive(result.is_goal);
    }
};

/// A found drill with all that it has of the one hunted with.
template <int D>
HuntResult<D> completed(ToldHunt<D> told, const Drill<D>& drill) {
    if (told.hunt.found) {
        Drill<D> whole = drill;
        whole.cues = std::move(told.hunt.found->cues);
        whole.seconds = told.hunt.found->seconds;
        whole.phase = told.hunt.found->phase;
        whole.expectations = std::move(told.hunt.found->expectations);
        told.hunt.found = std::move(whole);
    }
    return std::move(told.hunt);
}

/// Adds a further hunt that was made after those before it.
template <int D>
void add(SeriesResult<D>& sum, HuntResult<D> further) {
    further.drills += sum.hunt.drills;
    further.ticks += sum.hunt.ticks;
    for (std::size_t i = 0; i < sum.hunt.nearest.size() && i < further.nearest.size(); ++i)
        further.nearest[i] = std::max(further.nearest[i], sum.hunt.nearest[i]);
    sum.hunt = std::move(further);
}

using HuntOfSeed = std::pair<std::uint64_t, std::string>;

}  // namespace

template <int D>
SeriesResult<D> hunt_series(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill,
                            const HuntOptions& options, const HuntSeries& series) {
    if (series.seeds == 0) throw InvalidInput("a series of hunts needs a seed");
    const auto hunted = [&](std::uint64_t seed) {
        HuntOptions own = options;
        own.seed = seed;
        return ToldHunt<D>{hunt<D>(level, rig, drill, own)};
    };
    std::map<std::uint64_t, std::string> known;
    for (const std::string& part : series.parts) {
        for (HuntOfSeed& one : from_bytes<std::vector<HuntOfSeed>>(part)) known.insert(std::move(one));
    }
    const auto told_of = [&](std::uint64_t seed) {
        const auto found = known.find(seed);
        return found != known.end() ? from_bytes<ToldHunt<D>>(found->second) : hunted(seed);
    };
    // Processes take a seed each, and are done with all of them before the next ones are given out.
    const std::size_t at_once = series.sharing ? 8 : 1;
    SeriesResult<D> result;
    for (std::size_t first = 0; first < series.seeds; first += at_once) {
        const std::size_t count = std::min(at_once, series.seeds - first);
        std::vector<ToldHunt<D>> told;
        if (series.sharing) {
            told = made_together<ToldHunt<D>>(
                series.sharing, count, [&](std::size_t i) { return told_of(options.seed + first + i); });
        } else {
            told.push_back(told_of(options.seed + first));
        }
        for (std::size_t i = 0; i < count; ++i) {
            result.seed = options.seed + first + i;
            add<D>(result, completed<D>(std::move(told[i]), drill));
            if (result.hunt.found) return result;
        }
    }
    return result;
}

template <int D>
std::string hunt_part(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill,
                      const HuntOptions& options, std::size_t seeds, PartNumber part) {
    if (part.number >= part.of) throw InvalidInput("a part's number must be less than that of parts");
    std::vector<HuntOfSeed> all;
    for (std::size_t i = part.number; i < seeds; i += part.of) {
        HuntOptions own = options;
        own.seed = options.seed + i;
        ToldHunt<D> told{hunt<D>(level, rig, drill, own)};
        const bool found = told.hunt.found.has_value();
        all.emplace_back(own.seed, bytes_of(std::move(told)));
        if (found) break;
    }
    return bytes_of(std::move(all));
}

template SeriesResult<2> hunt_series<2>(const Level<2>&, const Rig<2>&, const Drill<2>&, const HuntOptions&,
                                        const HuntSeries&);
template SeriesResult<3> hunt_series<3>(const Level<3>&, const Rig<3>&, const Drill<3>&, const HuntOptions&,
                                        const HuntSeries&);
template std::string hunt_part<2>(const Level<2>&, const Rig<2>&, const Drill<2>&, const HuntOptions&,
                                  std::size_t, PartNumber);
template std::string hunt_part<3>(const Level<3>&, const Rig<3>&, const Drill<3>&, const HuntOptions&,
                                  std::size_t, PartNumber);

}  // namespace hollow_probe

// The hunt: a search for inputs that break what is expected of a drill.
#pragma once

#include "hollow_probe/motion/play.hpp"

namespace hollow_probe {

struct HuntProgress {
    std::size_t drills = 0;  // played so far
    std::size_t ticks = 0;
    double nearest = 0.0;  // how near some expectation came to being broken; 1 is at its limit
};

struct HuntOptions {
    std::uint64_t seed = 0;
    /// Ends the search, and not before a round of drills is done; the same find whatever the machine.
    std::size_t most_ticks = 20'000'000;
    /// … after so many seconds; 0: never. What is found by then depends on the machine's speed.
    double most_seconds = 0.0;
    int threads = 0;  // 0: all cores. What is found does not depend on it
    /// What the drill's cues do before is kept as it is; sought is what may be done after. Less than the
    /// drill's seconds. What is found may be shorter: whatever of it breaks nothing is taken out in the end.
    double kept_seconds = 0.0;
    std::function<bool()> stop;  // asked after every round; true ends the search with what it has
    /// Plays nothing but sequences drawn at random: what the search is held against.
    bool at_random = false;
    std::function<void(const HuntProgress&)> progress;
};

template <int D>
struct HuntResult {
    /// The shortest and simplest drill found that breaks an expectation: cues and seconds of its own, all
    /// else as in the one hunted with.
    std::optional<Drill<D>> found;
    Broken broken;                // what it breaks
    DrillFigures figures;         // that it came to
    std::size_t cues_before = 0;  // that the drill had when it was found, before it was made simple
    double seconds_before = 0.0;
    /// Played up to the one that was found, in the order of attempts; shrinking left aside.
    std::size_t drills = 0;
    std::size_t ticks = 0;
    /// What was hunted for, and how near each came to being broken at best: 1 at its limit.
    std::vector<Expectation> expectations;
    std::vector<double> nearest;
    /// Areas were sought that are to be reached: what was found comes to one of them. Its expectation is told
    /// as one never to reach it.
    bool is_goal = false;
};

/// Plays the drill as it is, then with other cues. Most attempts go on from moments that were kept, without
/// playing again what came before: such as few came to (by place, rise or fall, stance, signals and truths;
/// after A. Ecoffet et al., "First return, then explore", Nature 590, 2021), and such as came nearest to
/// breaking each expectation, in turn; a count is nearer to one more, the less far off the body would have to
/// be for the tick to be one. From the nearest every short sequence of presses is tried. Others are drawn at
/// random, every other one of them as players mostly play (one way held, towards what is to be reached, and
/// keys again and again), or changed a little from what came nearest. The player may drive any way (2D: there
/// and back; 3D: any, and along, towards or away from what is beside the body; without gravity up and down,
/// too), fully or in part, let go, face any of eight ways where the heading does not follow the drive, press
/// every key the drill or the rig knows, several within a few ticks, and within a tick where frames are told
/// of it, and ask for every stance. Where nothing but areas to reach is expected, those are sought; else they
/// are left aside: doing nothing breaks them.
///
/// The first attempt of a round that breaks one is taken, and made as short and simple as it can be while the
/// same expectation stays broken: without any of its cues, or any tick of a wait or of its end, it would be
/// kept. Drives are made plain, times the roundest that come to the same tick.
///
/// Throws InvalidInput as play() does, for a drill of which nothing is expected, and for `kept_seconds` below
/// 0 or not before its end.
template <int D>
HuntResult<D> hunt(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill,
                   const HuntOptions& options = {});

extern template HuntResult<2> hunt<2>(const Level<2>&, const Rig<2>&, const Drill<2>&, const HuntOptions&);
extern template HuntResult<3> hunt<3>(const Level<3>&, const Rig<3>&, const Drill<3>&, const HuntOptions&);

}  // namespace hollow_probe

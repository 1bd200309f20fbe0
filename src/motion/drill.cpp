#include "hollow_probe/motion/drill.hpp"

#include <array>
#include <cmath>

#include "hollow_probe/motion/figures.hpp"

namespace hollow_probe {

const char* name_of(Model model) {
    static constexpr std::array names = {"free", "slide", "push_out", "loose"};
    return names[static_cast<std::size_t>(model)];
}

namespace {

void require(bool holds, const std::string& what) {
    if (!holds) throw InvalidInput(what);
}

bool not_negative(double x) {
    return std::isfinite(x) && x >= 0.0;
}

bool not_negative(const ByFooting& x) {
    return not_negative(x.grounded) && not_negative(x.airborne);
}

bool positive(double x) {
    return std::isfinite(x) && x > 0.0;
}

void check(const Motion& motion) {
    require(not_negative(motion.gravity), "motion: gravity must be 0 or more");
    require(not_negative(motion.jump_speed), "motion: jump_speed must be 0 or more");
    require(not_negative(motion.top_speed), "motion: top_speed must be 0 or more");
    require(not_negative(motion.acceleration), "motion: acceleration must be 0 or more");
    for (const OnLayer& on : motion.on) {
        for (const std::optional<double>& amount : {on.top_speed, on.acceleration, on.friction, on.drag})
            require(!amount || not_negative(*amount),
                    "motion.on: what is given for '" + on.layer + "' must be 0 or more");
    }
    require(not_negative(motion.friction), "motion: friction must be 0 or more");
    require(not_negative(motion.grain), "motion: grain must be 0 or more");
    require(motion.grain == 0.0 || motion.model == Model::free, "motion: grain is for the model 'free'");
    require(motion.approach == Approach::cancel || motion.grain > 0.0,
            "motion: to creep there must be a grain");
    require(positive(motion.mass), "motion: mass must be more than 0");
    require(not_negative(motion.force), "motion: force must be 0 or more");
    require(not_negative(motion.drag), "motion: drag must be 0 or more");
    require(not_negative(motion.bounce) && motion.bounce <= 1.0, "motion: bounce must be from 0 to 1");
}

void check(const Expectation& expectation) {
    if (expectation.kind == Expectation::Kind::reaches ||
        expectation.kind == Expectation::Kind::never_reaches) {
        require(!expectation.area.empty(), "expect: an area is needed");
        return;
    }
    require(std::isfinite(expectation.limit),
            "expect: the limit of '" + expectation.figure + "' is no number");
    for (const char* name : figure_names()) {
        if (expectation.figure == name) return;
    }
    throw InvalidInput("expect: there is no figure '" + expectation.figure + "'");
}

}  // namespace

template <int D>
void check(const Drill<D>& drill) {
    constexpr double most_ticks = 1e7;
    require(drill.at.is_finite() && drill.heading.is_finite(), "start: expected numbers");
    require(positive(drill.tick_rate), "tick_rate must be more than 0");
    require(not_negative(drill.frame_rate), "frame_rate must be more than 0");
    require(drill.frame_jitter >= 0.0 && drill.frame_jitter <= 0.9, "frame_jitter must be from 0 to 0.9");
    require(drill.frame_jitter == 0.0 || drill.frame_rate > 0.0, "frame_jitter needs a frame_rate");
    require(drill.frame_lengths.empty() || drill.frame_rate == 0.0,
            "frame_lengths stand instead of a frame_rate, not beside it");
    for (const double length : drill.frame_lengths)
        require(std::isfinite(length) && length >= 1e-5, "frame_lengths must be 0.00001 s or more each");
    require(not_negative(drill.phase) && drill.phase <= 1.0, "phase must be from 0 to 1");
    require(positive(drill.seconds), "seconds must be more than 0");
    require(drill.seconds * drill.tick_rate <= most_ticks, "the drill has more than 10 million ticks");
    check(drill.motion);
    for (const Cue<D>& cue : drill.cues) {
        require(not_negative(cue.at), "cue: 'at' must be 0 seconds or more");
        require(!cue.drive || cue.drive->is_finite(), "cue: drive: expected numbers");
        require(!cue.heading || cue.heading->is_finite(), "cue: heading: expected numbers");
    }
    for (const LooseSolid& loose : drill.loose) {
        require(drill.motion.model == Model::loose, "solids are loose in the model 'loose' only");
        require(positive(loose.mass), "loose: the mass of '" + loose.solid + "' must be more than 0");
        require(not_negative(loose.friction),
                "loose: the friction of '" + loose.solid + "' must be 0 or more");
    }
    for (const Expectation& expectation : drill.expectations) check(expectation);
}

template void check<2>(const Drill<2>&);
template void check<3>(const Drill<3>&);

}  // namespace hollow_probe

// Why a drill broke what was expected of it: which one setting of the rig, given another value, keeps it.
#pragma once

#include <array>

#include "hollow_probe/motion/play.hpp"
#include "hollow_probe/rig/differences.hpp"

namespace hollow_probe {

/// Missed and false ticks of all signals.
struct WrongTicks {
    std::size_t missed = 0;
    std::size_t falsely = 0;

    [[nodiscard]] std::size_t all() const { return missed + falsely; }
};
WrongTicks wrong_ticks(const DrillFigures& figures);

/// One field of the rig given another value, and what became of the drill: it was replayed so.
struct DrillCure {
    std::string table;  // "probe", "signal" or "reflex"; empty: the rig's own
    std::string name;   // of the probe or signal; of a reflex what it does
    std::string key;    // "reach", "accept.angle[1]"
    std::string now;    // as TOML; empty: not given
    std::string then;
    /// For a number: from where to where it mends the same; infinite where no end was found. `then` is the
    /// roundest well inside.
    std::array<double, 2> between = {0.0, 0.0};
    std::vector<FieldChange> edits;   // what a rig file must have otherwise; empty: this tool cannot write it
    std::vector<std::size_t> mends;   // expectations that were broken and are kept, by number
    std::vector<std::size_t> spoils;  // … that were kept and are broken
    WrongTicks before;
    WrongTicks after;
    double effort = 0.0;  // of a number: how far it goes, in sizes of the body, right angles or seconds
    std::string cause;  // what it says is wrong, by the names of surveys: "reach_short"; empty: none of those

    /// More is mended than spoiled and no more ticks are wrong, or nothing of either and fewer ticks are
    /// wrong.
    [[nodiscard]] bool helps() const {
        return mends.size() > spoils.size() ? after.all() <= before.all()
                                            : spoils.empty() && after.all() < before.all();
    }
};

/// Where a broken expectation began, and what it follows from: a wrong tick, the first; of other counts the
/// first that is counted; of sizes and times the tick that passes the limit.
struct FirstBroken {
    enum class Wrong { no, missed, falsely };

    std::size_t expectation = 0;
    double seconds = 0.0;
    std::vector<double> at;
    /// The signal that it is about, or that the reflex goes by; empty: none. Whether it is on, and wrong.
    std::string signal;
    bool signal_on = false;
    Wrong wrong = Wrong::no;
    std::string probe;         // of the signal: the only one that is off, or on, as it is; empty: none alone
    std::string reflex;        // that brought it about, or would have kept it off; empty: none
    bool reflex_acts = false;  // … it acts then
    std::string solid;         // missed, felt falsely, stood on, clipped, met above or ahead; empty: none
    /// What is wrong, by the names that surveys use: what the first of the cures that keep the expectation
    /// says, and its number from 1; or, with number 0, what those say that keep it one after the other.
    std::vector<std::string> causes;
    std::size_t cure = 0;
    bool in_part = false;  // no cure keeps it: this one leaves fewer ticks wrong
};

struct DrillWhy {
    std::vector<FirstBroken> first;  // by expectation
    std::vector<DrillCure> cures;    // best first, each made alone
    /// Where no single one keeps all that was broken: the best, then the best with that made, and so on,
    /// while they help; each against the drill with those before it made.
    std::vector<DrillCure> together;
    std::vector<FieldChange> together_edits;  // empty: one of them cannot be written, or there are none
    bool asked = false;                       // it was looked for
    std::size_t still_broken = 0;             // expectations, with all of those made
};

struct WhyOptions {
    std::size_t most_ticks = 2'000'000;  // to replay in all, or thereabouts
    int threads = 0;                     // 0: all cores; the result does not depend on it
};

/// Looks for the changes that, each made alone, make a drill keep an expectation that it broke (`broken`, as
/// played): every number of every probe, signal and reflex farther and farther to both sides within its
/// limits, the place where it begins to mend found by bisection to 1e-4 of the step; every other word and
/// layer, every member left out. Each is seen by replaying the whole drill. Best first: most mended less
/// spoiled, then fewest wrong ticks, then the least change; those that mend nothing but make fewer ticks
/// wrong come after. Empty where nothing was broken.
template <int D>
DrillWhy why_broken(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill,
                    const std::vector<Broken>& broken, const WhyOptions& options = {});

extern template DrillWhy why_broken<2>(const Level<2>&, const Rig<2>&, const Drill<2>&,
                                       const std::vector<Broken>&, const WhyOptions&);
extern template DrillWhy why_broken<3>(const Level<3>&, const Rig<3>&, const Drill<3>&,
                                       const std::vector<Broken>&, const WhyOptions&);

}  // namespace hollow_probe

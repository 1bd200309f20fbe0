// The survey: a rig's signals held against truth over poses that cover a level.
#pragma once

#include <array>
#include <cstdint>
#include <exception>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "hollow_probe/geometry/shared_work.hpp"
#include "hollow_probe/level/level.hpp"
#include "hollow_probe/rig/number_set.hpp"
#include "hollow_probe/rig/rig.hpp"
#include "hollow_probe/verify/advice.hpp"
#include "hollow_probe/verify/kept_truths.hpp"

namespace hollow_probe {

enum class Verdict : std::uint8_t {
    true_contact,
    missed_contact,
    false_contact,
    true_clear,
    undecided,  // wrong, but a shift by rounding would flip the truth
    forgiven,   // wrong, but within what the intent forgives: counts as right
};
inline constexpr std::size_t verdict_count = 6;

const char* name_of(Verdict verdict);  // "true_contact", …

/// How a body came to a pose: what a rig remembers, and which way it moves, depend on it.
enum class Arrival : std::uint8_t {
    stood,   // it has been there for long
    walked,  // along its heading, over the ground
    fell,    // from above
    jumped,  // from the ground below, with the events that go with it
};

const char* name_of(Arrival arrival);  // "stood", …

class SurveyParts;

struct SurveyOptions {
    /// Distance between neighbouring grid columns in the last round, in the level's unit, if the budget
    /// allows it; 0 takes a quarter of the narrowest stance's width. Columns are laid a hair (0.06 %) closer,
    /// so that they do not fall on a level's round numbers.
    double spacing = 0.0;
    /// Headings in 3D, evenly spread; at least 1. In 2D both headings are always surveyed.
    int headings = 4;
    /// Names of the stances to survey; empty takes all.
    std::vector<std::string> stances;
    /// Borders between differing verdicts are located within spacing × this, across up; along up within touch
    /// / 64. 0 takes 1/256 in 2D and 1/16 in 3D.
    double border_fraction = 0.0;
    /// About so many columns at most beside corners and edges, all facings together; none with 0. Standard:
    /// as the budget allows; all with a budget of 0; with a spacing alone in proportion to the grid's.
    std::optional<std::size_t> most_corner_columns = {};
    /// 0 centers the grid on the level; any other seed moves it by a reproducible part of the spacing.
    std::uint64_t seed = 0;
    /// About how many poses to judge in all, at borders and corners among them: within a tenth, unless the
    /// spacing ends the survey before. 0: any number. Standard: any where a spacing is given, else 200,000.
    std::optional<std::size_t> budget = {};
    /// Judge only anchors in this area of the level, if one is named, and in this box, if one is given: its
    /// low corner and then its high one, 2 × D numbers.
    std::string area;
    std::vector<double> region;
    /// Speeds of arrival, where the rig or the level depends on it; empty takes one: the tallest stance's
    /// height times 2.5 in a second.
    std::vector<double> speeds;
    /// The tick of the game, for rigs that remember; > 0.
    double tick_seconds = 1.0 / 60.0;
    /// Times at which to survey a level with moving solids; empty takes four, evenly over the longest round.
    std::vector<double> times;
    /// Look for causes and cures. Without, there are no findings.
    bool explain = true;
    /// How many changed rigs to survey anew, so that a promise can be given for them; none with 0. Standard:
    /// as many as 2.5 million poses allow, from 2 to 12.
    std::optional<std::size_t> most_tried = {};
    /// How many poses are kept to be explained, drawn and to try cures at; of more, every so many. Memory
    /// does not grow beyond, however many are judged: about 150 bytes each. At least 1000.
    std::size_t most_kept = 2'000'000;
    /// Threads to use; 0 takes all cores. The result does not depend on it.
    int threads = 0;
    /// Called now and then with the part done, 0 to 1, from the calling thread.
    std::function<void(double)> progress;
    /// Asked often, from any thread, whether to stop: the survey then ends with the last whole
    /// round, unfinished, or throws SurveyStopped where there is none.
    std::function<bool()> stop;
    /// Other processes that share in the work: all of them get the same survey. None: this one does it all.
    WorkSharing sharing;
    /// What was found before by parts of the same survey; what they lack is found anew.
    const SurveyParts* parts = nullptr;
};

/// A survey was stopped before its first round was complete.
struct SurveyStopped : std::exception {
    [[nodiscard]] const char* what() const noexcept override { return "stopped before anything was known"; }
};

/// One look over the whole level.
struct SurveyRound {
    double spacing = 0.0;
    std::size_t poses = 0;
};

/// Why a survey looked no closer.
enum class SurveyEnd : std::uint8_t { spacing, budget, stopped };

const char* name_of(SurveyEnd end);  // "spacing", …

/// One judged pose, which stands for an interval of heights in which every signal has the same verdict.
template <int D>
struct SurveyPose {
    Vec<D> anchor = Vec<D>::zero();
    double above_rest = 0.0;   // of the anchor, above the nearest thing below it rests on; infinite: none
    float down = 0.0F;         // how far below the anchor the interval begins
    float up = 0.0F;           // … above it ends
    double measure = 0.0;      // area (2D) or volume (3D) of anchor space that the pose stands for
    std::uint16_t facing = 0;  // index into Survey::facings
    bool border = false;       // of a column at a border or beside a corner: not on the grid
    ReadingSet probes_on;
    SignalSet signals_on;
    SignalSet truths_on;  // the claimed truth
    SignalSet undecided;  // signals whose truth is within noise of flipping
    SignalSet forgiven;   // signals that are wrong within what the intent forgives

    [[nodiscard]] Verdict verdict(std::size_t signal) const {
        // A table, not branches: g++ 12 at -O2 turns the plain nest of conditions into wrong code.
        constexpr std::array<Verdict, 8> of = {
            Verdict::true_clear, Verdict::false_contact, Verdict::missed_contact, Verdict::true_contact,
            Verdict::true_clear, Verdict::undecided,     Verdict::undecided,      Verdict::true_contact};
        const auto bit = [signal](SignalSet set) { return std::size_t{set.has(signal)}; };
        const Verdict verdict = of[bit(signals_on) | bit(truths_on) << 1U | bit(undecided) << 2U];
        return bit(forgiven) != 0 ? Verdict::forgiven : verdict;
    }
};

/// A stance, a heading and a state that were surveyed.
template <int D>
struct Facing {
    std::size_t stance = 0;
    Vec<D> heading = Vec<D>::zero();
    Arrival arrival = Arrival::stood;
    Vec<D> velocity = Vec<D>::zero();  // length per second
    Vec<D> drive = Vec<D>::zero();     // unit; zero where no probe asks for it
    bool grounded = false;             // what the rig remembers, where a reach depends on it
    std::size_t moment = 0;            // number of the time, for levels with moving solids
    double seconds = 0.0;              // that time

    [[nodiscard]] Pose<D> pose(const Vec<D>& anchor) const {
        return {anchor, heading, stance, velocity, drive, grounded};
    }
};

/// A change that brings the values of a signal nearer to truth, and what comes of it at the poses judged.
struct ValueCure {
    CauseReport change;  // its counts are of verdicts; its gain is told by the errors below
    double median = 0.0;
    double high = 0.0;
    double worst = 0.0;
};

/// How far the values a signal gives are from truth, over the poses at which it is rightly on.
template <int D>
struct ValueErrors {
    Value value = Value::none;
    std::string id;  // "v-…": the same from run to run
    std::size_t poses = 0;
    double median = 0.0;  // of the absolute errors: lengths, or degrees for slopes and normals
    double high = 0.0;    // 95 % are no greater
    double worst = 0.0;
    SurveyPose<D> worst_pose;
    std::vector<ValueCure> cures;  // what lessens the errors, best first; none where they are within noise
};

/// A truth stated by hand, held against geometry and against the signals that claim it.
template <int D>
struct ClaimReport {
    AreaClaim claim;
    std::size_t poses = 0;               // with the anchor in the area
    std::size_t against_geometry = 0;    // of them those where the geometry says otherwise
    std::size_t against_signals = 0;     // … where a signal that claims this truth does
    std::optional<SurveyPose<D>> first;  // where the geometry says otherwise, else where a signal does
};

struct SignalVerdicts {
    std::string name;
    std::optional<Claim> claims = Claim::ground;     // empty: a helper, not judged
    std::array<std::size_t, verdict_count> poses{};  // by Verdict; on the grid, at borders and corners
    /// By Verdict: the area (2D) or volume (3D) of anchor space that has it, summed over facings. Free of the
    /// crowding of poses at borders.
    std::array<double, verdict_count> measure{};

    [[nodiscard]] std::size_t count(Verdict verdict) const {
        return poses[static_cast<std::size_t>(verdict)];
    }
    [[nodiscard]] double of(Verdict verdict) const { return measure[static_cast<std::size_t>(verdict)]; }
    /// The measure of what is true or signalled, forgiven verdicts among it: what shares are shares of.
    [[nodiscard]] double concerned() const {
        return of(Verdict::true_contact) + of(Verdict::missed_contact) + of(Verdict::false_contact) +
               of(Verdict::forgiven);
    }
    /// Whether what it claims was true anywhere.
    [[nodiscard]] bool put_to_test() const {
        return count(Verdict::true_contact) + count(Verdict::missed_contact) > 0;
    }

    /// True contacts among all contacts signalled, by measure; 1 when none was signalled.
    [[nodiscard]] double precision() const;
    /// True contacts among all there were, by measure; 1 when there were none.
    [[nodiscard]] double recall() const;
};

/// What was looked at, and what was not.
struct SurveyScope {
    std::size_t grid_columns = 0;
    std::size_t border_columns = 0;  // between those, where verdicts change
    std::size_t corner_columns = 0;  // beside corners and edges of the level
    std::size_t corners_left_out = 0;
    /// Facings that nothing asked tells from another but for their heading: what was found of that one counts
    /// for them, too, in every number.
    std::size_t facings_alike = 0;
    double lowest = infinity;  // heights between which anything can be sensed or true
    double highest = -infinity;
    /// Whether what the player can reach was found out: in levels with a start, surveyed whole.
    bool knows_reached = false;
    std::vector<std::string> enclosed;   // closed meshes whose insides were left out
    std::vector<std::string> entered;    // … were surveyed, because a start lies in them
    std::vector<std::string> odd;        // what is odd about the surfaces of 3D meshes, a solid each
    std::vector<std::string> warnings;   // of the level: what may have been lost of its files
    std::vector<std::string> never_on;   // probes that never hit anything
    std::vector<std::string> never_off;  // … that were on wherever they were read
};

/// A cluster of wrong verdicts of one signal, with one leading cause, in one place.
template <int D>
struct Finding {
    std::string id;  // the same from run to run while place and cause are the same
    std::size_t signal = 0;
    Verdict verdict = Verdict::missed_contact;
    std::size_t stance = 0;
    std::size_t count = 0;  // poses, grid and border
    double measure = 0.0;   // area (2D) or volume (3D) of anchor space
    /// How far, at worst, one of its anchors is from where the signal would be right: for a false contact
    /// from where the truth is on, for a missed one from where it is off. Infinite: nowhere near.
    double severity = 0.0;
    Bounds<D> bounds;     // of their anchors, out to the located borders
    SurveyPose<D> worst;  // a typical one among the gravest: nearest to a start, or else in the middle
    std::string solid;    // the solid missed, or falsely taken for a contact
    /// Greatest net gain first; of those that gain alike the likeliest. Where nothing gains the likeliest of
    /// all, which then does not help.
    std::vector<CauseReport> causes;
    std::vector<std::size_t> fixes = {};  // numbers in Survey::fixes of those that cure some of it
    bool reached = true;  // whether the player can come there from a start; see SurveyScope::knows_reached
};

template <int D>
struct Survey {
    double spacing = 0.0;  // of the last whole round
    std::uint64_t seed = 0;
    std::vector<SurveyRound> rounds;  // the last is what this survey tells
    SurveyEnd end = SurveyEnd::spacing;
    std::vector<Facing<D>> facings;
    std::size_t grid_poses = 0;
    std::size_t border_poses = 0;
    std::size_t asked = 0;  // poses at which rig and truths were asked to find the intervals
    SurveyScope scope;
    std::vector<SignalVerdicts> signals;
    std::vector<ValueErrors<D>> values;  // one a signal; Value::none for those that give none
    std::vector<ClaimReport<D>> claims;  // as in the level
    std::vector<Finding<D>> findings;    // reached ones first, then greatest measure, then most poses
    std::vector<Fix<D>> fixes;           // what to change, best first
    std::optional<JointFix> joint;       // the best set of them, where it is better than the first alone
    Wrongness wrong;                     // of the rig as it is
    std::size_t judged = 0;              // poses that stand for intervals: on the grid and off it
    std::vector<SurveyPose<D>>
        poses;                      // those kept: all, unless there were more than SurveyOptions::most_kept
    std::size_t right_kept_of = 1;  // of poses right in every signal one in so many was kept
    std::size_t wrong_kept_of = 1;  // … of those wrong in some; findings' counts are of all, about
};

/// Surveys `rig` on `level`, in rounds: a coarse one over the whole level, and then finer ones. Each looks at
/// every anchor of every facing at which the body does not clip. Columns along up
/// stand on a grid that covers the level grown by whatever the rig feels with, beside every corner and edge,
/// and where neighbours differ; each is decided over its whole height, as intervals of constant verdict, from
/// below the lowest to above the highest height at which a probe can sense, or a claim can hold. The ends of
/// intervals are found within touch / 64. The hollow inside of a closed mesh that the body meets is left out
/// unless a start lies in it.
///
/// Deterministic: the same input gives the same result for any number of threads.
/// Throws InvalidInput for a rig that check() refuses, layers the level does not declare, unknown stances,
/// spacing that is negative or so small that there would be more than 50 million columns, and where there is
/// no pose to judge at all.
template <int D>
Survey<D> survey(const Level<D>& level, const Rig<D>& rig, const SurveyOptions& options = {});
/// … with truths that were kept of surveys of the same level and region before, and keeps those found now.
/// `each_round` is given every whole round but the last, with findings, and what was tried for the six
/// gravest of them, and no promises for these.
template <int D>
Survey<D> survey(const Level<D>& level, const Rig<D>& rig, const SurveyOptions& options, KeptTruths<D>& kept,
                 const std::function<void(const Survey<D>&)>& each_round = {});

extern template Survey<2> survey<2>(const Level<2>&, const Rig<2>&, const SurveyOptions&);
extern template Survey<3> survey<3>(const Level<3>&, const Rig<3>&, const SurveyOptions&);
extern template Survey<2> survey<2>(const Level<2>&, const Rig<2>&, const SurveyOptions&, KeptTruths<2>&,
                                    const std::function<void(const Survey<2>&)>&);
extern template Survey<3> survey<3>(const Level<3>&, const Rig<3>&, const SurveyOptions&, KeptTruths<3>&,
                                    const std::function<void(const Survey<3>&)>&);

}  // namespace hollow_probe

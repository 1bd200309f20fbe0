// The survey: a rig's signals held against truth over poses that cover a level.
#pragma once

#include <array>
#include <cstdint>
#include <functional>
#include <string>
#include <vector>

#include "hollow_probe/level/level.hpp"
#include "hollow_probe/rig/rig.hpp"

namespace hollow_probe {

enum class Verdict : std::uint8_t { true_contact, missed_contact, false_contact, true_clear, undecided };
inline constexpr std::size_t verdict_count = 5;

/// Why a verdict is wrong. Named only where changing that one thing, and nothing else, was seen to flip the
/// verdict.
enum class CauseKind : std::uint8_t {
    // missed contacts
    reach_short,    // a longer reach senses it
    aimed_beside,   // the probe, moved sideways, senses it
    layer_unseen,   // seeing one more layer that stops the body senses it
    starts_inside,  // the probe starts in a solid, and passing it over, counting it or starting outside cures
                    // it
    angle_refused,  // the probe hits it but refuses its angle
    first_hit_shadowed,  // a refused first hit hides it
    not_sensed,          // it is there for the body alone: no probe can meet it
    combined_out,        // probes sense it but the signal's combination says no
    // false contacts
    reach_long,       // a shorter reach is right
    wider_than_body,  // the probe feels beside what the body can stand on
    layer_wrong,      // it sees a layer that does not stop the body
    too_steep,        // it accepts what is steeper than footing
    sensed_only,      // what it meets is there for probes alone
    combined_in,      // one probe alone decides where all together would not
    // either
    unexplained,  // no single change tried flips it
};

const char* name_of(Verdict verdict);  // "true_contact", …
const char* name_of(CauseKind cause);  // "reach_short", …

struct SurveyOptions {
    /// Distance between neighbouring grid columns, in the level's unit; 0 takes a quarter of the narrowest
    /// stance's width. Columns are laid a hair (0.06 %) closer, so that they do not fall on a level's round
    /// numbers.
    double spacing = 0.0;
    /// Headings in 3D, evenly spread; at least 1. In 2D both headings are always surveyed.
    int headings = 4;
    /// Names of the stances to survey; empty takes all.
    std::vector<std::string> stances;
    /// Borders between differing verdicts are located within spacing × this.
    double border_fraction = 1.0 / 256.0;
    /// 0 centers the grid on the level; any other seed moves it by a reproducible part of the spacing.
    std::uint64_t seed = 0;
    /// Threads to use; 0 takes all cores. The result does not depend on it.
    int threads = 0;
    /// Called now and then with the part done, 0 to 1, from the calling thread.
    std::function<void(double)> progress;
};

/// One judged pose. `above_rest` is the anchor's height above where the body would rest.
template <int D>
struct SurveyPose {
    Vec<D> anchor = Vec<D>::Zero();
    double above_rest = 0.0;
    std::uint16_t facing = 0;      // index into Survey::facings
    bool border = false;           // added while locating a border, not on the grid
    std::uint64_t probes_on = 0;   // one bit a probe
    std::uint64_t signals_on = 0;  // one bit a signal
    std::uint64_t truths_on = 0;   // the claimed truth, one bit a signal
    std::uint64_t undecided = 0;   // signals whose truth is within noise of flipping

    [[nodiscard]] Verdict verdict(std::size_t signal) const {
        // A table, not branches: g++ 12 at -O2 turns the plain nest of conditions into wrong code.
        constexpr std::array<Verdict, 8> of = {
            Verdict::true_clear, Verdict::false_contact, Verdict::missed_contact, Verdict::true_contact,
            Verdict::true_clear, Verdict::undecided,     Verdict::undecided,      Verdict::true_contact};
        const auto bit = [signal](std::uint64_t bits) {
            return static_cast<std::size_t>(bits >> signal & 1U);
        };
        return of[bit(signals_on) | bit(truths_on) << 1U | bit(undecided) << 2U];
    }
};

/// A stance and heading that was surveyed.
template <int D>
struct Facing {
    std::size_t stance = 0;
    Vec<D> heading = Vec<D>::Zero();
};

struct SignalVerdicts {
    std::string name;
    Claim claims = Claim::ground;
    std::array<std::size_t, verdict_count> poses{};  // by Verdict; grid and border poses
    /// By Verdict: how much of the surveyed ground (length in 2D, area in 3D, summed over facings and heights
    /// above rest) has it, borders located within spacing × border_fraction. Free of the crowding of border
    /// poses.
    std::array<double, verdict_count> measure{};

    /// True contacts among all contacts signalled, by measure; 1 when none was signalled.
    [[nodiscard]] double precision() const;
    /// True contacts among all there were, by measure; 1 when there were none.
    [[nodiscard]] double recall() const;
};

/// A cause proven for a finding, and what its cure does over the whole survey.
struct CauseReport {
    CauseKind cause = CauseKind::unexplained;
    std::string probe;                // empty where the signal's combination is at fault
    std::string parameter;            // the key in the rig file, e.g. "reach", "accept.angle[1]"
    std::string now;                  // its value as written in a rig file
    std::string needs;                // the smallest change that cures all proven poses of the finding
    double needs_number = 0.0;        // needs as a number, NaN where it is not one
    double by = 0.0;                  // how far off it is, in level units or degrees; 0 for yes/no parameters
    std::size_t proven = 0;           // poses of the finding where this change alone flips the verdict
    std::size_t cures = 0;            // poses of the finding that `needs` cures
    std::size_t cures_elsewhere = 0;  // wrong verdicts of this signal it cures outside the finding
    std::size_t adds_missed = 0;      // right verdicts of this signal it turns into missed contacts
    std::size_t adds_false = 0;       // … into false contacts
};

/// A cluster of wrong verdicts of one signal, with one leading cause, in one place.
template <int D>
struct Finding {
    std::string id;  // the same from run to run while place and cause are the same
    std::size_t signal = 0;
    Verdict verdict = Verdict::missed_contact;
    std::size_t stance = 0;
    std::size_t count = 0;       // poses, grid and border
    std::size_t grid_count = 0;  // those on the grid: proportional to the ground concerned
    Bounds<D> bounds;            // of their anchors, out to the located borders
    SurveyPose<D> worst;
    std::string solid;                // the solid missed, or falsely taken for a contact
    std::vector<CauseReport> causes;  // the leading one first
};

template <int D>
struct Survey {
    double spacing = 0.0;  // as asked for, or chosen
    std::uint64_t seed = 0;
    std::vector<Facing<D>> facings;
    std::size_t grid_poses = 0;
    std::size_t border_poses = 0;
    std::size_t clipped = 0;  // poses left out because the body clips there
    std::vector<SignalVerdicts> signals;
    std::vector<Finding<D>> findings;  // most grid poses first, then most poses
    std::vector<SurveyPose<D>> poses;  // all that were judged
};

/// Surveys `rig` on `level`. The poses: the body lowered on to everything it can rest on, over a grid of
/// columns, in every facing, and at four heights above rest: a quarter of touch, just inside touch, just
/// outside, and clearly in the air. Poses that clip are left out and counted. Where neighbouring poses
/// (columns, or heights) differ in any verdict, poses between them are added until each border is located.
///
/// Deterministic: the same input gives the same result for any number of threads.
/// Throws InvalidInput for a rig that check() refuses, layers the level does not declare, unknown stances,
/// spacing that is negative or so small that there would be more than 5 million columns over all facings
/// (some 5 GB).
template <int D>
Survey<D> survey(const Level<D>& level, const Rig<D>& rig, const SurveyOptions& options = {});

extern template Survey<2> survey<2>(const Level<2>&, const Rig<2>&, const SurveyOptions&);
extern template Survey<3> survey<3>(const Level<3>&, const Rig<3>&, const SurveyOptions&);

}  // namespace hollow_probe

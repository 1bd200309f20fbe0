// What a survey advises: why verdicts are wrong, and what to change.
#pragma once

#include <array>
#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "hollow_probe/rig/differences.hpp"
#include "hollow_probe/rig/rig.hpp"

namespace hollow_probe {

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
    gated_off,           // probes sense it but another signal it is gated by says no
    settling,            // the signal has not yet been on for long enough
    muted,               // an event keeps it off
    stepped_over,        // the probe looks only where the body would arrive, beyond what is in between
    // false contacts
    reach_long,       // a shorter reach is right
    wider_than_body,  // the probe feels beside what the body can stand on
    layer_wrong,      // it sees a layer that does not stop the body
    too_steep,        // it accepts what is steeper than footing
    sensed_only,      // what it meets is there for probes alone
    combined_in,      // one probe alone decides where all together would not
    not_solid,        // it meets a volume that queries find though nothing is there
    own_body,         // it meets the body itself
    held,             // grace or a latch keeps it on
    edge_graze,       // it only just brushes an edge
    // either
    one_way_side,  // it takes a one-way solid otherwise than the body meets it
    stale,         // it was read before the body moved, or a flag is out of date
    back_face,     // it meets, or passes over, the back of a surface otherwise than the body does
    other_probe,   // of a value: another probe tells it better
    too_coarse,    // of a value: the probe's lines are too far apart
    not_mounted,   // no probe for it in this stance, or not the one that would tell
    unexplained,   // no single change tried flips it
};

/// In the order of the kinds.
inline constexpr std::array cause_names = {
    "reach_short", "aimed_beside",    "layer_unseen", "starts_inside", "angle_refused", "first_hit_shadowed",
    "not_sensed",  "combined_out",    "gated_off",    "settling",      "muted",         "stepped_over",
    "reach_long",  "wider_than_body", "layer_wrong",  "too_steep",     "sensed_only",   "combined_in",
    "not_solid",   "own_body",        "held",         "edge_graze",    "one_way_side",  "stale",
    "back_face",   "other_probe",     "too_coarse",   "not_mounted",   "unexplained"};
static_assert(cause_names.size() == static_cast<std::size_t>(CauseKind::unexplained) + 1);

constexpr const char* name_of(CauseKind cause) {
    return cause_names[static_cast<std::size_t>(cause)];
}

/// A right verdict is not traded lightly: in the order of changes what is spoiled counts so many times.
inline constexpr double dearness_of_spoiled = 3.0;

/// A cause proven for a finding, and what its cure does at the poses the survey judged: to this signal and to
/// every other one, in every stance.
struct CauseReport {
    CauseKind cause = CauseKind::unexplained;
    std::string probe;                // empty where the signal's combination is at fault
    std::string parameter;            // the key in the rig file, e.g. "reach", "accept.angle[1]"
    std::string now;                  // its value as written in a rig file
    std::string needs;                // … that cures it: well inside the interval, and as round as can be
    double needs_number = 0.0;        // needs as a number, NaN where it is not one
    std::array<double, 2> between{};  // the least and the greatest number that do as well; NaN without number
    double by = 0.0;                  // how far off it is, in level units or degrees; 0 for yes/no parameters
    std::size_t proven = 0;           // poses of the finding where this change alone flips the verdict
    std::size_t cures = 0;            // poses of the finding that `needs` cures
    std::size_t cures_elsewhere = 0;  // further wrong verdicts it cures, of whichever signal
    std::size_t adds_missed = 0;      // right verdicts of any signal it turns into missed contacts
    std::size_t adds_false = 0;       // … into false contacts
    double gain = 0.0;                // the measure it cures less the measure it spoils
    double spoils = 0.0;              // that measure: what was right and is wrong then
    std::size_t tried = 0;            // poses at which it was tried: all of the finding's, and of the others
    std::size_t of = 0;               // … as many as time allows, out of all these
    std::vector<CauseReport> with;    // further changes to be made together with this one; at most two

    std::vector<FieldChange> edits;  // the whole change as one to a rig file; none: it is none to a rig

    /// Whether there is a change, and it gives more than it takes.
    [[nodiscard]] bool helps() const { return !parameter.empty() && gain > 0.0; }
    /// What changes are put in order by: what is cured less what is spoiled, which is dear.
    [[nodiscard]] double worth() const { return gain - (dearness_of_spoiled - 1.0) * spoils; }
    /// Whether the change can be written into a rig file.
    [[nodiscard]] bool can_be_written() const { return !edits.empty(); }
};

/// Why a verdict of that claim is wrong, as the rest of a sentence: "ray "sole" is too short by 0.1". `who`
/// and `by` are the cause's probe and amount in words.
std::string reason_of(const CauseReport& cause, const std::string& who, const std::string& by, Claim claim);

/// How wrong a rig is, over all its signals: by measure (area or volume of anchor space) and by poses.
struct Wrongness {
    double missed = 0.0;
    double falsely = 0.0;
    double contact = 0.0;    // the measure where truths are on: what shares of missed ones are of
    double signalled = 0.0;  // … where signals are on: what shares of false ones are of
    std::size_t missed_poses = 0;
    std::size_t false_poses = 0;

    [[nodiscard]] double whole() const { return missed + falsely; }
    [[nodiscard]] std::size_t poses() const { return missed_poses + false_poses; }
    [[nodiscard]] double missed_share() const { return contact > 0.0 ? missed / contact : 0.0; }
    [[nodiscard]] double false_share() const { return signalled > 0.0 ? falsely / signalled : 0.0; }
    /// Whether it is less wrong: by a part in a million of the measure at least.
    [[nodiscard]] bool better_than(const Wrongness& other) const;
    /// Of two levels together.
    Wrongness& operator+=(const Wrongness& more);
};

/// A change worth making.
template <int D>
struct Fix {
    CauseReport change;                 // counted over all findings
    std::vector<std::size_t> findings;  // numbers in Survey::findings of those it cures, in part at least
    std::size_t whole = 0;              // of them those it cures wholly
    std::vector<std::size_t> stances;   // in which these are
    /// How wrong the changed rig was when it was surveyed anew, with its own borders; nothing where it was
    /// not: there is no promise then, only what was tried at the poses of this survey.
    std::optional<Wrongness> after;
    /// Makes the change to a rig with the same probes and signals. The level surveyed must still be there.
    /// None for a change to the level.
    std::function<Rig<D>(const Rig<D>&)> apply;
};

/// Several fixes made together, surveyed anew.
struct JointFix {
    std::vector<std::size_t> fixes;  // numbers in Survey::fixes
    Wrongness after;
};

}  // namespace hollow_probe

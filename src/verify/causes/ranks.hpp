// In which order causes are named that explain the same verdict: the less, the likelier the one meant.
//
// First what is no matter of degree, the surer the earlier; then, from 0 on, what is, by how much has to be
// changed, in body sizes. Constants above 0 stand among those amounts.
#pragma once

namespace hollow_probe::rank {

inline constexpr double volume = -2.5;           // a volume of queries is never solid
inline constexpr double not_there = -2.0;        // met by probes alone, by bodies alone, or the body itself
inline constexpr double aimed_otherwise = -1.6;  // the signal itself says what it is about
inline constexpr double one_sided = -1.5;        // one-way solids and backs: other than the body has them …
inline constexpr double one_sided_never = -1.4;  // … passed over altogether only if that does not do
inline constexpr double not_mounted = -1.3;
inline constexpr double latched = -1.2;     // what a zone remembers
inline constexpr double read_early = -1.1;  // what was true a tick ago
inline constexpr double timed = -1.0;       // settling, muted, held: the clock alone
inline constexpr double layer = -1.0;       // the layer that the body stands on, or that does not stop it
inline constexpr double stepped_over = -0.95;
inline constexpr double inside = -0.9;               // what a start in a solid is taken for
inline constexpr double as_wide_as_body = -0.9;      // not wider than what stands
inline constexpr double condition_too_steep = -0.9;  // a condition before the probe's own angles
inline constexpr double start_back = -0.85;          // another setting is less of a change than another place
inline constexpr double first_hit = -0.8;
inline constexpr double too_steep = -0.8;
inline constexpr double one_contact_of_many = -0.8;
inline constexpr double angle = -0.7;  // within what the intent allows
inline constexpr double all_contacts = -0.6;
inline constexpr double graze = -0.5;        // and the amount
inline constexpr double met_aslant = -0.44;  // not cured by moving aside by a hair
inline constexpr double gate = -0.5;         // a drop is one for what stands
inline constexpr double gated_off = -0.4;

inline constexpr double inside_falsely = 0.05;
inline constexpr double count = 0.29;         // a number before a member …
inline constexpr double member = 0.3;         // … one member …
inline constexpr double whole_group = 0.31;   // … before the whole group
inline constexpr double other_layer = 0.5;    // one that what was missed is not on
inline constexpr double beyond_intent = 0.5;  // and how far: an angle that is no footing
inline constexpr double another_probe = 2.0;

}  // namespace hollow_probe::rank

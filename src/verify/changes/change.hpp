// A change: one edit of one or more fields of a rig, or of a role in the level.
//
// Each kind is a small struct in a file of its own, with
//   make(probe, rig) or make(rig)   making it; false where no rig file can say it
//   words(rig)                      how it reads
//   about()                         what it is made to, alike for changes that differ in amount alone
// and, where it is of an amount,
//   amount, unchanged(rig)          its size, and where that begins
//   farthest(rig, body_size)        how far it may go beyond the amount demanded
//   file_value(rig, amount)         the number a file has for it, where that is not the amount; and
//   amount_for(rig, value)          back
// A new kind is a struct with these, and its name below.
#pragma once

#include <optional>
#include <variant>

#include "verify/changes/as_cast.hpp"
#include "verify/changes/as_sole.hpp"
#include "verify/changes/drop_member.hpp"
#include "verify/changes/gate_by.hpp"
#include "verify/changes/list_name.hpp"
#include "verify/changes/move_end.hpp"
#include "verify/changes/move_start.hpp"
#include "verify/changes/narrow.hpp"
#include "verify/changes/other_group.hpp"
#include "verify/changes/read_after.hpp"
#include "verify/changes/set_choice.hpp"
#include "verify/changes/set_number.hpp"
#include "verify/changes/set_role.hpp"
#include "verify/changes/start_back.hpp"

namespace hollow_probe {

template <int D>
using Change = std::variant<std::monostate, SetNumber, SetChoice, ListName, MoveStart<D>, StartBack, Narrow,
                            MoveEnd, AsCast, AsSole, DropMember, OtherGroup, GateBy, ReadAfter, SetRole>;

/// The number of the one probe it is made to; -1: to signals, to reading, to none.
template <int D>
int probe_of(const Change<D>& change);
/// Whether it is made to a solid of the level.
template <int D>
bool is_to_level(const Change<D>& change) {
    return std::holds_alternative<SetRole>(change);
}
/// Makes a change that is to one probe. False for others, and where no file can say it.
template <int D>
bool make(const Change<D>& change, Probe<D>& probe, const Rig<D>& rig);
/// Makes any change. False where no rig file can say it: the rig is then left half changed.
template <int D>
bool make(const Change<D>& change, Rig<D>& rig);
template <int D>
ChangeWords words_of(const Change<D>& change, const Rig<D>& rig, const Level<D>& level);
/// Alike for changes that differ in their amounts alone.
template <int D>
std::string about(const Change<D>& change);
/// Whether two changes cannot both be made: they set one thing to two values, or name members by their place.
template <int D>
bool exclude_each_other(const Change<D>& a, const Change<D>& b);

/// Its size; nothing for changes that are not of an amount.
template <int D>
std::optional<double> amount_of(const Change<D>& change);
/// … when nothing is changed.
template <int D>
std::optional<double> unchanged_of(const Change<D>& change, const Rig<D>& rig);
template <int D>
void set_amount(Change<D>& change, double amount);
template <int D>
double farthest_of(const Change<D>& change, const Rig<D>& rig, double body_size);
/// The number a rig file would have for an amount. Nothing for changes that are not of an amount.
template <int D>
std::optional<double> file_value(const Change<D>& change, const Rig<D>& rig, double amount);
/// The amount for which a rig file would have that number.
template <int D>
double amount_for(const Change<D>& change, const Rig<D>& rig, double value);

}  // namespace hollow_probe

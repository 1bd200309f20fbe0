// Changes that are of a number: where it begins, and the roundest one within an interval.
#pragma once

#include "verify/changes.hpp"

namespace hollow_probe {

/// A change's amount when nothing is changed; nothing for changes that are not of an amount.
template <int D>
std::optional<double> amount_unchanged(const Surveyed<D>& surveyed, const ProvenCause<D>& cause,
                                       std::size_t signal);

/// Gives a change another amount; what it moves by, and how far off it says to be, go with it.
template <int D>
void set_amount(ProvenCause<D>& cause, double amount, double unchanged);

/// The number a rig file would have for an amount: the radius that is left, not what it lost. Nothing for
/// changes that are not of one number.
template <int D>
std::optional<double> file_value(const Surveyed<D>& surveyed, const ProvenCause<D>& cause, double amount);
/// The amount for which a rig file would have that number.
template <int D>
double amount_of_value(const Surveyed<D>& surveyed, const ProvenCause<D>& cause, double value);

/// The number from `low` to `high` with the fewest decimals, and of those the one nearest to their middle; a
/// 5 as the last decimal counts as rounder than other digits. Either may be the greater. It is exactly what
/// its decimals say when they are read from a file.
double roundest_between(double low, double high);

}  // namespace hollow_probe

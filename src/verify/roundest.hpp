// The roundest number within an interval.
#pragma once

namespace hollow_probe {

/// The number from `low` to `high` with the fewest decimals, and of those the one nearest to their middle; a
/// 5 as the last decimal counts as rounder than other digits. Either may be the greater. It is exactly what
/// its decimals say when they are read from a file.
double roundest_between(double low, double high);

}  // namespace hollow_probe

// What makes two proven causes the same cause.
#pragma once

#include <string>
#include <vector>

#include "verify/proven_cause.hpp"

namespace hollow_probe {

/// Alike for causes of one kind that make one change, of whatever amount.
using CauseKey = std::vector<std::pair<CauseKind, std::string>>;

template <int D>
CauseKey key_of(const ProvenCause<D>& cause) {
    CauseKey key = {{cause.kind, about<D>(cause.change)}};
    for (const ProvenCause<D>& further : cause.with) {
        const CauseKey more = key_of(further);
        key.insert(key.end(), more.begin(), more.end());
    }
    return key;
}

/// Of two causes of one key the one whose change is large enough for both; of several changes each.
template <int D>
void take_more_demanding(ProvenCause<D>& kept, const ProvenCause<D>& other) {
    const std::vector<ProvenCause<D>> with = kept.with;
    if (other.by > kept.by) kept = other;
    kept.with = with;
    for (std::size_t i = 0; i < with.size(); ++i) take_more_demanding(kept.with[i], other.with[i]);
}

}  // namespace hollow_probe

#include "hollow_probe/rig/differences.hpp"

#include <algorithm>

#include "rig/key_text.hpp"

namespace hollow_probe {
namespace {

/// What differs between two tables' keys.
void compare(const std::vector<KeyText>& before, const std::vector<KeyText>& after, const char* table,
             const std::string& name, std::vector<FieldChange>& changes) {
    for (std::size_t i = 0; i < before.size(); ++i) {
        const KeyText& a = before[i];
        const KeyText& b = after[i];
        if (a.text == b.text) continue;
        const bool in_parts =
            !a.parts.empty() && std::equal(a.parts.begin(), a.parts.end(), b.parts.begin(), b.parts.end(),
                                           [](const auto& x, const auto& y) { return x.first == y.first; });
        if (!in_parts) {
            changes.push_back({table, name, a.key, a.text, b.text});
            continue;
        }
        for (std::size_t k = 0; k < a.parts.size(); ++k) {
            if (a.parts[k].second == b.parts[k].second) continue;
            changes.push_back(
                {table, name, a.parts[k].first, a.parts[k].second, b.parts[k].second, b.key, b.text});
        }
    }
}

template <class Things>
void compare_named(const Things& before, const Things& after, const char* table,
                   std::vector<FieldChange>& changes) {
    for (const auto& one : before) {
        const auto other =
            std::find_if(after.begin(), after.end(), [&](const auto& o) { return o.name == one.name; });
        if (other != after.end()) compare(keys_of(one), keys_of(*other), table, one.name, changes);
    }
}

}  // namespace

template <int D>
std::vector<FieldChange> differences(const Rig<D>& before, const Rig<D>& after) {
    std::vector<FieldChange> changes;
    const auto reads = [](const Rig<D>& rig) {
        return rig.reads == Reads::after_move ? std::string() : std::string("\"before_move\"");
    };
    if (before.reads != after.reads) changes.push_back({"", "", "reads", reads(before), reads(after)});
    compare(keys_of(before.intent), keys_of(after.intent), "intent", "", changes);
    compare_named(before.probes, after.probes, "probe", changes);
    compare_named(before.signals, after.signals, "signal", changes);
    for (const Reflex& one : before.reflexes) {
        const std::string name = name_of(one);
        const auto named = [&](const Reflex& other) { return name_of(other) == name; };
        const auto other = std::find_if(after.reflexes.begin(), after.reflexes.end(), named);
        // Of several alike it cannot be said which is meant.
        const bool alone = std::count_if(before.reflexes.begin(), before.reflexes.end(), named) == 1;
        if (alone && other != after.reflexes.end())
            compare(keys_of(one), keys_of(*other), "reflex", name, changes);
    }
    return changes;
}

template std::vector<FieldChange> differences<2>(const Rig<2>&, const Rig<2>&);
template std::vector<FieldChange> differences<3>(const Rig<3>&, const Rig<3>&);

}  // namespace hollow_probe

// Probes, signals and the intent key by key, as a rig file has them.
#pragma once

#include <string>
#include <utility>
#include <vector>

#include "hollow_probe/rig/rig.hpp"

namespace hollow_probe {

/// "[a, b]", each thing as text(thing) has it.
template <class Things, class Text>
std::string joined(const Things& things, Text text) {
    std::string result = "[";
    for (const auto& thing : things) result += (result.size() > 1 ? ", " : "") + text(thing);
    return result + "]";
}

/// A key of a table, and parts of it that can be changed by themselves.
struct KeyText {
    std::string key;
    std::string text;                                             // empty: not given
    std::vector<std::pair<std::string, std::string>> parts = {};  // "accept.angle[1]" and its text
};

/// Every key, in the order of the fields; what is at its default is not given.
template <int D>
std::vector<KeyText> keys_of(const Probe<D>& probe);
std::vector<KeyText> keys_of(const Signal& signal);
std::vector<KeyText> keys_of(const Reflex& reflex);
std::vector<KeyText> keys_of(const Intent& intent);

}  // namespace hollow_probe

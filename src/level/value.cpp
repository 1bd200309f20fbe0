#include "hollow_probe/level/value.hpp"

namespace hollow_probe {

const char* name_of(Value value) {
    return value_words[static_cast<std::size_t>(value)].data();
}

}  // namespace hollow_probe

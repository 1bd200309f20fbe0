#include "verify/cause_bytes.hpp"

#include "hollow_probe/rig/fields.hpp"

namespace hollow_probe {

std::string_view lasting_key(const std::string& key) {
    std::string_view found;
    const auto look_in = [&](const auto& fields) {
        for (const auto& field : fields) {
            if (field.key == key) found = field.key;
        }
    };
    look_in(probe_fields<2>());
    look_in(probe_fields<3>());
    look_in(signal_fields());
    look_in(member_fields());
    if (found.empty()) throw InvalidInput("there is no field '" + key + "'");
    return found;
}

}  // namespace hollow_probe

#include "hollow_probe/level/claim.hpp"

namespace hollow_probe {

const char* name_of(Claim claim) {
    return claim_words[static_cast<std::size_t>(claim)].data();
}

const char* name_of(const std::optional<Claim>& claim) {
    return claim ? name_of(*claim) : "helper";
}

}  // namespace hollow_probe

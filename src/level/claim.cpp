#include "hollow_probe/level/claim.hpp"

namespace hollow_probe {

const char* name_of(Claim claim) {
    switch (claim) {
        case Claim::ground:
            return "ground";
        case Claim::ceiling:
            return "ceiling";
        case Claim::wall:
            return "wall";
        case Claim::step:
            return "step";
        case Claim::drop:
            return "drop";
        case Claim::ledge:
            return "ledge";
        case Claim::headroom:
            return "headroom";
        case Claim::blocked:
            return "blocked";
    }
    return "";
}

const char* name_of(const std::optional<Claim>& claim) {
    return claim ? name_of(*claim) : "helper";
}

}  // namespace hollow_probe

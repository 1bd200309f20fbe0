// How wrong a rig is, in JSON.
#pragma once

#include "hollow_probe/verify/advice.hpp"
#include "io/json.hpp"

namespace hollow_probe {

inline Json wrongness_json(const Wrongness& wrong) {
    return {{"missed", wrong.missed},
            {"false", wrong.falsely},
            {"missed_share", wrong.missed_share()},
            {"false_share", wrong.false_share()},
            {"missed_poses", wrong.missed_poses},
            {"false_poses", wrong.false_poses}};
}

}  // namespace hollow_probe

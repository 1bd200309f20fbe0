// What a query makes of solids that are solid from one side only.
#pragma once

namespace hollow_probe {

enum class OneWay {
    as_body,  // met against their solid side only, and not by what begins inside: as a body meets them
    always,   // met from every side
    never,    // passed over
};

}  // namespace hollow_probe

// What a query makes of solids it starts in, of those that are solid from one side only, and of the backs of
// surfaces.
#pragma once

namespace hollow_probe {

/// What a cast makes of a solid that its shape overlaps at the start.
enum class IfInside {
    report,   // a hit at distance 0, its normal the shortest way out
    ignore,   // passed over
    against,  // a hit where the cast runs against the shortest way out, passed over where it leads out
};

enum class OneWay {
    as_body,  // as a body meets them: against their solid side only, and not by what begins inside, deeper
              // than it may have sunk into what it stands on
    always,   // met from every side
    never,    // passed over
};

/// Which sides of meshes and polylines a query, or a body, meets. The front of a triangle is where its
/// corners are seen counter-clockwise; of a segment it lies to the right of the way from its first corner to
/// its second.
enum class Faces {
    both,
    front,  // back faces are passed over
};

}  // namespace hollow_probe

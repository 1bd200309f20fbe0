// What a query makes of solids that are solid from one side only, and of the backs of surfaces.
#pragma once

namespace hollow_probe {

enum class OneWay {
    as_body,  // met against their solid side only, and not by what begins inside: as a body meets them
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

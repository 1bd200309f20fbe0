#!/usr/bin/env python3
"""Writes demo/turbine.glb: a turbine housing turned on a lathe, with six ribs, as a modelling program would save it."""
import json
import math
import pathlib
import struct

SEGMENTS = 24
PROFILE = [(0.0, 0.0), (1.3, 0.0), (1.3, 0.45), (1.1, 0.58), (0.6, 0.75), (0.35, 0.75), (0.35, 1.1), (0.0, 1.25)]

vertices, triangles = [], []


def ring(radius, height):
    first = len(vertices)
    if radius == 0.0:
        vertices.append((0.0, height, 0.0))
        return [first] * SEGMENTS
    for i in range(SEGMENTS):
        angle = 2 * math.pi * i / SEGMENTS
        vertices.append((radius * math.cos(angle), height, -radius * math.sin(angle)))
    return list(range(first, first + SEGMENTS))


rings = [ring(r, h) for r, h in PROFILE]
for low, high in zip(rings, rings[1:]):
    for i in range(SEGMENTS):
        k = (i + 1) % SEGMENTS
        for a, b, c in ((low[i], low[k], high[k]), (low[i], high[k], high[i])):
            if len({a, b, c}) == 3:
                triangles.append((a, b, c))
for rib in range(6):
    angle = 2 * math.pi * rib / 6
    c, s = math.cos(angle), math.sin(angle)
    first = len(vertices)
    for x in (1.25, 1.6):
        for y in (0.0, 0.4):
            for z in (-0.06, 0.06):
                vertices.append((x * c - z * s, y, -x * s - z * c))
    for a, b, c_, d in ((0, 2, 3, 1), (4, 5, 7, 6), (0, 1, 5, 4), (2, 6, 7, 3), (0, 4, 6, 2), (1, 3, 7, 5)):
        triangles += [(first + a, first + b, first + c_), (first + a, first + c_, first + d)]

points = b"".join(struct.pack("<3f", *v) for v in vertices)
indices = b"".join(struct.pack("<3H", *t) for t in triangles)
indices += b"\0" * (-len(indices) % 4)
low = [min(v[k] for v in vertices) for k in range(3)]
high = [max(v[k] for v in vertices) for k in range(3)]
document = {
    "asset": {"version": "2.0", "generator": "make_turbine.py"},
    "scene": 0,
    "scenes": [{"nodes": [0]}],
    "nodes": [
        {"name": "Machine hall", "children": [1]},
        {"name": "Turbine", "mesh": 0, "rotation": [0.0, math.sin(math.pi / 24), 0.0, math.cos(math.pi / 24)]},
    ],
    "meshes": [{"name": "Turbine", "primitives": [{"attributes": {"POSITION": 0}, "indices": 1}]}],
    "accessors": [
        {"bufferView": 0, "componentType": 5126, "count": len(vertices), "type": "VEC3", "min": low, "max": high},
        {"bufferView": 1, "componentType": 5123, "count": 3 * len(triangles), "type": "SCALAR"},
    ],
    "bufferViews": [
        {"buffer": 0, "byteOffset": 0, "byteLength": len(points)},
        {"buffer": 0, "byteOffset": len(points), "byteLength": len(indices)},
    ],
    "buffers": [{"byteLength": len(points) + len(indices)}],
}
text = json.dumps(document, separators=(",", ":")).encode()
text += b" " * (-len(text) % 4)
body = points + indices
glb = struct.pack("<4sII", b"glTF", 2, 12 + 8 + len(text) + 8 + len(body))
glb += struct.pack("<I4s", len(text), b"JSON") + text + struct.pack("<I4s", len(body), b"BIN\0") + body
(pathlib.Path(__file__).parent / "demo" / "turbine.glb").write_bytes(glb)

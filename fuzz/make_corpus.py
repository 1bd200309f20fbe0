"""Writes the seeds of the fuzz targets: small files of every kind the loaders read. Run by hand when a kind is added."""
import base64, json, os, shutil, struct, zlib

here = os.path.dirname(os.path.abspath(__file__))

def write(loader, name, content):
    folder = os.path.join(here, "corpus", loader)
    os.makedirs(folder, exist_ok=True)
    with open(os.path.join(folder, name), "wb") as file:
        file.write(content if isinstance(content, bytes) else content.encode())

def png(width, height, depth, color, rows, extra=b""):
    def chunk(kind, data):
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
    head = struct.pack(">IIBBBBB", width, height, depth, color, 0, 0, 0)
    data = zlib.compress(b"".join(b"\0" + row for row in rows))
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + extra + chunk(b"IDAT", data) + chunk(b"IEND", b"")

def palette():
    data = bytes([0, 0, 0, 255, 255, 255])
    return struct.pack(">I", 6) + b"PLTE" + data + struct.pack(">I", zlib.crc32(b"PLTE" + data))

def gltf(accessors, views, data, primitives, nodes=None, extensions=()):
    model = {"asset": {"version": "2.0"}, "scene": 0, "scenes": [{"nodes": [0]}],
             "nodes": nodes or [{"name": "a", "mesh": 0}], "meshes": [{"name": "m", "primitives": primitives}],
             "accessors": accessors, "bufferViews": views,
             "buffers": [{"byteLength": len(data), "uri": "data:application/octet-stream;base64," +
                          base64.b64encode(data).decode()}]}
    if extensions:
        model["extensionsRequired"] = list(extensions)
        model["extensionsUsed"] = list(extensions)
    return model

def glb(model):
    data = base64.b64decode(model["buffers"][0].pop("uri").split(",")[1])
    text = json.dumps(model).encode()
    text += b" " * (-len(text) % 4)
    data += b"\0" * (-len(data) % 4)
    body = struct.pack("<I4s", len(text), b"JSON") + text + struct.pack("<I4s", len(data), b"BIN\0") + data
    return struct.pack("<4sII", b"glTF", 2, 12 + len(body)) + body

shutil.rmtree(os.path.join(here, "corpus"), ignore_errors=True)
square = struct.pack("<12f", 0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0)
faces = bytes([0, 1, 2, 0, 2, 3, 0, 0])
vec3 = {"bufferView": 0, "componentType": 5126, "count": 4, "type": "VEC3", "min": [0, 0, 0], "max": [1, 1, 0]}
order = {"bufferView": 1, "componentType": 5121, "count": 6, "type": "SCALAR"}
views = [{"buffer": 0, "byteOffset": 0, "byteLength": 48}, {"buffer": 0, "byteOffset": 48, "byteLength": 8}]
plain = gltf([vec3, order], views, square + faces, [{"attributes": {"POSITION": 0}, "indices": 1}])
write("gltf", "plain.gltf", json.dumps(plain))
write("gltf", "plain.glb", glb(json.loads(json.dumps(plain))))
moved = gltf([vec3, order], views, square + faces, [{"attributes": {"POSITION": 0}, "indices": 1}],
             [{"name": "up", "translation": [1, 2, 3], "scale": [-1, 1, 1], "children": [1]},
              {"name": "in", "rotation": [0, 0, 1, 0], "mesh": 0, "extras": {"layer": "grating"}}])
write("gltf", "nodes.gltf", json.dumps(moved))
sparse = gltf([dict(vec3, sparse={"count": 1, "indices": {"bufferView": 1, "byteOffset": 1, "componentType": 5121},
                                  "values": {"bufferView": 0, "byteOffset": 12}})], views, square + faces,
              [{"attributes": {"POSITION": 0}, "mode": 5}])
write("gltf", "sparse.gltf", json.dumps(sparse))
shorts = struct.pack("<16h", 0, 0, 0, 0, 32767, 0, 0, 0, 32767, 32767, 0, 0, 0, 32767, 0, 0)
packed = gltf([{"bufferView": 0, "componentType": 5122, "normalized": True, "count": 4, "type": "VEC3"}],
              [{"buffer": 0, "byteOffset": 0, "byteLength": 32, "byteStride": 8}], shorts,
              [{"attributes": {"POSITION": 0}, "mode": 6}], None, ["KHR_mesh_quantization"])
write("gltf", "packed.gltf", json.dumps(packed))
write("gltf", "outside.gltf", json.dumps(dict(plain, buffers=[{"byteLength": 56, "uri": "../secret.bin"}])))

write("obj", "square.obj", "# a square\no slab\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nf 1 2 3 4\n")
write("obj", "groups.obj", "v 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0 0\nvn 0 0 1\ng one\nf 1/1/1 2//1 3/1\ng two\nf -3 -2 -1\n")
write("obj", "concave.obj", "v 0 0 0\nv 4 0 0\nv 4 4 0\nv 2 1 0\nv 0 4 0\nf 1 2 3 4 5\n")

facet = " facet normal 0 0 1\n  outer loop\n   vertex 0 0 0\n   vertex 1 0 0\n   vertex 0 1e0 0\n  endloop\n endfacet\n"
write("stl", "text.stl", "solid s\n" + facet + "endsolid s\n")
write("stl", "binary.stl", b"\0" * 80 + struct.pack("<I", 1) + struct.pack("<12fH", 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0))

write("png", "color.png", png(3, 2, 8, 2, [bytes(9), bytes([255] * 9)]))
write("png", "alpha.png", png(2, 2, 8, 6, [bytes(8), bytes([9] * 8)]))
write("png", "gray16.png", png(3, 2, 16, 0, [bytes(range(6)), bytes(range(6, 12))]))
write("png", "palette.png", png(8, 2, 1, 3, [b"\xaa", b"\x0f"], palette()))

write("tiles", "plain.txt", "..../\n_^^#\\\n#####")
level = """format = "hollow-probe level 1"
dimensions = %d
layers = ["masonry", "grating"]
[[solid]]
name = "a"
layer = "masonry"
%s
[[start]]
name = "gate"
at = %s
heading = %s
"""
write("level", "box2.toml", level % (2, "box = { center = [0.0, 0.0], size = [1.0, 2.0], turn = { degrees = 30.0 } }",
                                    "[0.0, 1.0]", "[1.0, 0.0]"))
write("level", "box3.toml", level % (3, "box = { center = [0.0, 0.0, 0.0], size = [1.0, 2.0, 3.0] }", "[0.0, 1.0, 0.0]",
                                    "[1.0, 0.0, 0.0]"))
write("level", "poly.toml", level % (2, "polygon = { points = [[0.0, 0.0], [4.0, 0.0], [4.0, 3.0], [2.0, 1.0]] }\n"
                                    "one_way = [0.0, 1.0]", "[0.0, 1.0]", "[1.0, 0.0]"))
write("level", "hull.toml", level % (3, "hull = { points = [[0.0,0.0,0.0],[1.0,0.0,0.0],[0.0,1.0,0.0],[0.0,0.0,1.0]], radius = 0.1 }",
                                    "[0.0, 1.0, 0.0]", "[1.0, 0.0, 0.0]"))
write("level", "tiles.toml", level % (2, "tiles = { rows = ['..#', 'g##'], cell = 0.5, legend = [{ cell = '#', is = 'full' }, "
                                     "{ cell = 'g', is = 'one_way', layer = 'grating' }] }", "[0.0, 1.0]", "[1.0, 0.0]"))
demo = os.path.join(here, "..", "data", "demo", "keeper.rig.toml")
write("rig", "keeper.toml", open(demo, "rb").read())

write("drill", "run.toml", """format = "hollow-probe drill 1"
level = "l.toml"
rig = "r.toml"
start = "gate"
stance = "upright"
frame_rate = 144
sampled = "on_frame"
seconds = 0.4
[motion]
model = "loose"
gravity = 20.0
jump_speed = 6.0
top_speed = 4.0
force = 900.0
[[loose]]
solid = "crate"
mass = 30.0
[[cue]]
at = 0.1
drive = [1.0, 0.0]
[[cue]]
at = 0.2
press = "jump"
[[expect]]
signal = "grounded"
most = { missed_ticks = 3, climb = 0.1 }
least = { headway = 0.5 }
never_reaches = "loft"
""")

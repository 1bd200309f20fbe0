"""Writes the channel bed of the demo's culvert as a mask: stone over a rough underside. Run by hand when it changes."""
import os, struct, zlib

columns, rows = 20, 10
depth = [10, 10, 9, 9, 8, 9, 10, 10, 10, 9, 8, 7, 8, 9, 9, 10, 10, 9, 10, 10]  # of stone, in pixels

def chunk(kind, data):
    return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

lines = b"".join(b"\0" + bytes(0 if row < depth[column] else 255 for column in range(columns)) for row in range(rows))
head = struct.pack(">IIBBBBB", columns, rows, 8, 0, 0, 0, 0)
here = os.path.dirname(os.path.abspath(__file__))
with open(os.path.join(here, "demo", "channel-bed.png"), "wb") as file:
    file.write(b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(lines)) + chunk(b"IEND", b""))

#include "hollow_probe/io/file_keys.hpp"

#include <array>

namespace hollow_probe {
namespace {

constexpr std::array level_keys = {
    FileKey{"format", "string", "", "required", "\"hollow-probe level 1\""},
    FileKey{"dimensions", "integer", "", "required", "2 or 3"},
    FileKey{"up", "vector", "", "[0.0, 1.0] or [0.0, 1.0, 0.0]",
            "The direction against gravity; any length but zero"},
    FileKey{"layers", "list of strings", "", "required", "The names of the layers, 1 to 64 of them"},
    FileKey{"solid[].name", "string", "", "required", "The solid's name, given once in the level"},
    FileKey{"solid[].layer", "string", "", "required", "One of `layers`"},
    FileKey{"solid[].box.center", "vector", "length", "required", "The middle of an axis-aligned box"},
    FileKey{"solid[].box.size", "vector", "length", "required",
            "Its width along each axis; each more than 0"},
    FileKey{
        "solid[].box.turn.degrees", "number", "degrees", "required",
        "Turns the box around its middle: counter-clockwise in 2D, around `axis` by the right hand in 3D"},
    FileKey{"solid[].box.turn.axis", "vector", "", "required in 3D",
            "The axis of the turn; not allowed in 2D"},
    FileKey{"solid[].ball.center", "vector", "length", "required", "The middle of a ball"},
    FileKey{"solid[].ball.radius", "number", "length", "required", "More than 0"},
    FileKey{"solid[].capsule.from", "vector", "length", "required", "One end of the capsule's middle line"},
    FileKey{"solid[].capsule.to", "vector", "length", "required", "The other end"},
    FileKey{"solid[].capsule.radius", "number", "length", "required", "More than 0"},
    FileKey{"solid[].hull.points", "list of vectors", "length", "required",
            "Corners of a convex hull, in any order, none inside the hull of the others; at most 128"},
    FileKey{"solid[].hull.radius", "number", "length", "0.0", "Rounds the hull: it grows by this much"},
    FileKey{"solid[].polygon.points", "list of vectors", "length", "required",
            "2D: the corners of a filled simple polygon, in order, either way around"},
    FileKey{"solid[].polyline.points", "list of vectors", "length", "required",
            "2D: the corners of a chain of segments without thickness"},
    FileKey{"solid[].role", "string", "", "\"both\"",
            "Who meets it: \"sensed\" probes alone, \"reference\" the body and truth alone, \"both\""},
    FileKey{"solid[].one_way", "vector", "", "solid from all sides",
            "Solid only to what arrives against this direction and does not overlap it already"},
    FileKey{"solid[].mesh.file", "string", "", "required",
            "3D: a .gltf, .glb, .obj or .stl file, relative to the level file; its triangles are a surface, "
            "hollow "
            "inside"},
    FileKey{"solid[].mesh.node", "string", "", "\"\"",
            "The glTF node or OBJ group whose triangles to take; \"\" takes all"},
    FileKey{"solid[].mesh.at", "vector", "length", "[0.0, 0.0, 0.0]", "Moves the mesh"},
    FileKey{"solid[].mesh.scale", "number", "", "1.0", "Scales the mesh before it is moved; more than 0"},
    FileKey{"solid[].mesh.allow_outside", "boolean", "", "false",
            "Whether a glTF may read buffers outside its own folder"},
    FileKey{"solid[].tiles.rows", "list of strings", "", "this or `file`",
            "2D: the cells, one character each, the topmost row first"},
    FileKey{"solid[].tiles.file", "string", "", "this or `rows`",
            "… or a text file of them, relative to the level file"},
    FileKey{"solid[].tiles.cell", "number", "length", "1.0", "The size of a cell; more than 0"},
    FileKey{"solid[].tiles.at", "vector", "length", "[0.0, 0.0]", "The corner with the lowest coordinates"},
    FileKey{"solid[].tiles.legend[].cell", "string", "", "required",
            "A character; without a legend `#` is full, `/` and `\\` rise to the right and left, `_` is the "
            "lower half, `^` is one-way"},
    FileKey{"solid[].tiles.legend[].is", "string", "", "required",
            "\"full\", \"empty\", \"lower_half\", \"upper_half\", \"left_half\", \"right_half\", "
            "\"rise_right\", \"rise_left\", "
            "\"hang_right\", \"hang_left\" or \"one_way\""},
    FileKey{"solid[].tiles.legend[].layer", "string", "", "the solid's", "The layer of these cells"},
    FileKey{"solid[].image.file", "string", "", "required",
            "2D: a PNG file, relative to the level file; each pixel is a cell"},
    FileKey{"solid[].image.pixel", "number", "length", "1.0", "The size of a pixel; more than 0"},
    FileKey{"solid[].image.at", "vector", "length", "[0.0, 0.0]", "The corner with the lowest coordinates"},
    FileKey{"solid[].image.legend[].color", "string", "", "required",
            "\"#rrggbb\" or \"#rrggbbaa\"; without a legend black is full. White and transparent pixels are "
            "empty"},
    FileKey{"solid[].image.legend[].is", "string", "", "\"full\"", "As for tiles"},
    FileKey{"solid[].image.legend[].layer", "string", "", "the solid's", "The layer of these pixels"},
    FileKey{"solid[].heights.file", "string", "", "required",
            "A greyscale PNG file, relative to the level file, 16 bits a pixel at best: the height of the "
            "ground"},
    FileKey{"solid[].heights.spacing", "number", "length", "1.0", "From pixel to pixel; more than 0"},
    FileKey{"solid[].heights.low", "number", "length", "0.0", "The height of black"},
    FileKey{"solid[].heights.high", "number", "length", "required", "The height of white"},
    FileKey{"solid[].heights.at", "vector", "length", "the origin",
            "Where the first pixel lies, at height 0"},
    FileKey{"solid[].heights.row", "integer", "", "0", "2D: the row of the picture to take, from 0"},
    FileKey{"import[].file", "string", "", "required",
            "3D: a .gltf, .glb, .obj or .stl file, relative to the level file; every node or group with "
            "triangles becomes a "
            "solid of that name"},
    FileKey{"import[].layer", "string", "", "required",
            "The layer of what no rule and no `layer` in the node's extras names"},
    FileKey{"import[].at", "vector", "length", "[0.0, 0.0, 0.0]", "Moves all of it"},
    FileKey{"import[].scale", "number", "", "1.0", "Scales all of it before it is moved; more than 0"},
    FileKey{"import[].allow_outside", "boolean", "", "false",
            "Whether a glTF may read buffers outside its own folder"},
    FileKey{"import[].rule[].nodes", "string", "", "required",
            "A pattern of node names, `*` standing for anything; also met by nodes below one of that name. "
            "The first rule met counts"},
    FileKey{"import[].rule[].layer", "string", "", "this or `skip`", "The layer of these nodes"},
    FileKey{"import[].rule[].skip", "boolean", "", "false", "Whether to leave these nodes out"},
    FileKey{"start[].name", "string", "", "required", "The start point's name, given once in the level"},
    FileKey{"start[].at", "vector", "length", "required", "Where the body's anchor is put"},
    FileKey{"start[].heading", "vector", "", "required",
            "Where the body looks; its part along `up` is left out"},
};

constexpr std::array rig_keys = {
    FileKey{"format", "string", "", "required", "\"hollow-probe rig 1\""},
    FileKey{"dimensions", "integer", "", "required", "2 or 3, as in the level"},
    FileKey{"body.meets", "list of strings", "", "required", "The layers that stop the body"},
    FileKey{"body.stance[].name", "string", "", "required", "The stance's name, given once in the rig"},
    FileKey{"body.stance[].capsule.radius", "number", "length", "required",
            "An upright capsule's radius; more than 0"},
    FileKey{"body.stance[].capsule.height", "number", "length", "required",
            "Its overall height, at least twice the radius"},
    FileKey{"body.stance[].box.size", "vector", "length", "required",
            "A box's size: forward, up and (3D) right; each more than 0"},
    FileKey{"body.stance[].ball.radius", "number", "length", "required", "A ball's radius; more than 0"},
    FileKey{"body.stance[].hull.points", "list of vectors", "length", "required",
            "Convex corners in body coordinates, the lowest at height 0"},
    FileKey{"body.stance[].hull.radius", "number", "length", "0.0", "Rounds the hull: it grows by this much"},
    FileKey{"intent.touch", "number", "length", "0.02",
            "The largest gap that still counts as contact; more than 0"},
    FileKey{"intent.steepest_footing", "number", "degrees", "45.0",
            "The steepest slope that is footing, 0 to 90"},
    FileKey{"intent.ceiling_within", "number", "degrees", "60.0",
            "How far from straight down the normal of a ceiling may be, 0 to 90"},
    FileKey{"intent.lowest_step", "number", "length", "0.05",
            "The least rise that is a step; what rises less stops the body as a wall does"},
    FileKey{"intent.tallest_step", "number", "length", "0.35",
            "The greatest rise that is a step; more than `lowest_step`"},
    FileKey{"intent.ahead_step", "number", "length", "0.02", "How near a step counts"},
    FileKey{"intent.tread", "number", "length", "half the stance's width",
            "How far on to a step the body must get"},
    FileKey{"intent.ahead_wall", "number", "length", "0.02", "How near a wall counts"},
    FileKey{"intent.ahead_drop", "number", "length", "0.5", "How near a drop counts"},
    FileKey{"intent.deepest_drop", "number", "length", "0.6",
            "How deep below the feet the ground may fall off without being a drop"},
    FileKey{"intent.ahead_ledge", "number", "length", "0.5", "How near a ledge counts"},
    FileKey{"intent.ledge_between", "list of two numbers", "length", "[0.5, 1.5]",
            "The heights above the anchor between which a ledge's top lies; both ends inclusive"},
    FileKey{"probe[].name", "string", "", "required", "The probe's name, given once in the rig"},
    FileKey{"probe[].kind", "string", "", "required", "\"ray\", or \"cast\": a shape swept along a line"},
    FileKey{"probe[].shape.box.size", "vector", "length", "required",
            "The cast shape, a box around `from`: forward, up and (3D) right"},
    FileKey{"probe[].shape.ball.radius", "number", "length", "required",
            "The cast shape, a ball around `from`"},
    FileKey{"probe[].shape.capsule.radius", "number", "length", "required",
            "The cast shape, an upright capsule around `from`"},
    FileKey{"probe[].shape.capsule.height", "number", "length", "required", "Its overall height"},
    FileKey{"probe[].shape.hull.points", "list of vectors", "length", "required",
            "The cast shape, convex corners around `from`"},
    FileKey{"probe[].shape.hull.radius", "number", "length", "0.0", "Rounds the hull: it grows by this much"},
    FileKey{"probe[].from", "vector", "length", "[0.0, 0.0] or [0.0, 0.0, 0.0]",
            "Where the probe starts, from the anchor: forward, up and (3D) right"},
    FileKey{"probe[].along", "string or vector", "", "\"down\"",
            "\"down\", \"up\", \"forward\", \"backward\", (3D) \"left\", \"right\", or a vector in body "
            "coordinates"},
    FileKey{"probe[].reach", "number", "length", "required", "How far it goes, inclusive; more than 0"},
    FileKey{"probe[].sees", "list of strings", "", "required", "The layers it can hit"},
    FileKey{"probe[].accept.angle", "list of two numbers", "degrees", "[0.0, 180.0]",
            "The hits that count, by the angle of their normal from up; both ends inclusive"},
    FileKey{"probe[].take", "string", "", "\"first\"",
            "\"first\": only the first hit is considered; \"all\": any hit that is accepted"},
    FileKey{"probe[].if_inside", "string", "", "\"report\"",
            "A solid it starts in: \"report\" a hit at distance 0, or \"ignore\" that solid"},
    FileKey{"probe[].stances", "list of strings", "", "all stances", "The stances in which it is mounted"},
    FileKey{"signal[].name", "string", "", "required", "The signal's name, given once in the rig"},
    FileKey{"signal[].claims", "string", "", "required",
            "The truth it claims: \"ground\", \"ceiling\", \"wall\", \"step\", \"drop\", \"ledge\" or "
            "\"headroom\""},
    FileKey{"signal[].stance", "string", "", "required for headroom",
            "Headroom: the stance that is to fit. Ledge: the stance that is to have room on it; standard: "
            "the present one"},
    FileKey{"signal[].any", "list of strings", "", "none", "At least one of these probes is on"},
    FileKey{"signal[].all", "list of strings", "", "none", "Each of these probes is on"},
    FileKey{"signal[].none", "list of strings", "", "none", "Each of these probes is off"},
    FileKey{"signal[].at_least.count", "integer", "", "required", "So many of the probes in `of` are on"},
    FileKey{"signal[].at_least.of", "list of strings", "", "required", "The probes that are counted"},
};

}  // namespace

std::span<const FileKey> level_file_keys() {
    return level_keys;
}

std::span<const FileKey> rig_file_keys() {
    return rig_keys;
}

}  // namespace hollow_probe

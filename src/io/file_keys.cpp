#include "hollow_probe/io/file_keys.hpp"

#include <algorithm>
#include <array>
#include <deque>
#include <string>
#include <vector>

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
    FileKey{"solid[].sensed_when.stances", "list of strings", "", "in every stance",
            "Probes meet it in these stances only"},
    FileKey{"solid[].sensed_when.slowest", "number", "length/s", "0.0",
            "… and from this speed of the body on"},
    FileKey{"solid[].sensed_when.fastest", "number", "length/s", "no limit", "… up to this one"},
    FileKey{"solid[].path.stops", "list of vectors", "length", "required",
            "Lets it move: from stop to stop and from the last back to the first; offsets from where it is"},
    FileKey{"solid[].path.pace", "number", "length/s", "required", "How fast; more than 0"},
    FileKey{"solid[].path.wait", "number", "s", "0.0", "How long it waits at every stop"},
    FileKey{"area[].name", "string", "", "required", "The area's name, given once in the level"},
    FileKey{"area[].box.center", "vector", "length", "required", "The middle of the box"},
    FileKey{"area[].box.size", "vector", "length", "required", "Its width along each axis; each more than 0"},
    FileKey{"area[].layer", "string", "", "none",
            "A layer on which queries find the box, though nothing solid is there"},
    FileKey{"claim[].area", "string", "", "required", "The area it is about"},
    FileKey{"claim[].truth", "string", "", "required", "A truth, as in `signal[].claims` of a rig"},
    FileKey{"claim[].is", "string", "", "required",
            "\"never\" or \"always\": that the truth never or always holds with the anchor in the area"},
    FileKey{"start[].name", "string", "", "required", "The start point's name, given once in the level"},
    FileKey{"start[].at", "vector", "length", "required", "Where the body's anchor is put"},
    FileKey{"start[].heading", "vector", "", "required",
            "Where the body looks; its part along `up` is left out"},
};

constexpr std::array keys_before_stances = {
    FileKey{"format", "string", "", "required", "\"hollow-probe rig 1\""},
    FileKey{"dimensions", "integer", "", "required", "2 or 3, as in the level"},
    FileKey{"extends", "string", "", "none",
            "Another rig file, relative to this one: what is not given here is taken from there; probes, "
            "signals, stances and reflexes of the same name are replaced, others added; \"...\" in a list "
            "stands for what that file has there"},
    FileKey{"leaves_out", "list of strings", "", "none",
            "Reflexes of the file it extends, by name, that this rig does not have"},
    FileKey{"reads", "string", "", "\"after_move\"",
            "When in a tick the probes are read: \"after_move\", or \"before_move\", a tick late"},
    FileKey{"body.meets", "list of strings", "", "required", "The layers that stop the body"},
    FileKey{"body.layer", "string", "", "none", "The layer on which queries find the body itself"},
    FileKey{"body.turns", "boolean", "", "true",
            "Whether its heading follows its drive; else it is surveyed with other drives, too"},
    FileKey{"body.faces", "string", "", "\"both\"",
            "Of meshes and polylines: \"front\" if their back faces do not stop it"},
};

/// The keys of a rig file, those of its fields made from the table of fields.
class RigKeys {
  public:
    RigKeys() {
        keys_.assign(keys_before_stances.begin(), keys_before_stances.end());
        // Two dimensions and three have the same keys.
        add("body.stance[].", stance_fields<3>());
        add("intent.", intent_fields());
        add("probe[].", probe_fields<3>());
        for (const Field<Signal>& field : signal_fields()) {
            add("signal[].", std::span(&field, 1));
            if (field.key == "at_least.of") add("signal[].any[].", member_fields());
        }
        add("reflex[].", reflex_fields());
    }

    [[nodiscard]] std::span<const FileKey> all() const { return keys_; }

  private:
    template <class Owner>
    void add(const std::string& table, std::span<const Field<Owner>> fields) {
        for (const Field<Owner>& field : fields) {
            const std::string_view path = kept(table + std::string(field.key));
            // One for several kinds is told once, with whatever some kind allows.
            const auto told = std::find_if(keys_.begin(), keys_.end(),
                                           [&](const FileKey& key) { return key.path == path; });
            if (told != keys_.end()) {
                told->limits.above = told->limits.above && field.limits.above;
                told->limits.least = std::min(told->limits.least, field.limits.least);
                told->limits.most = std::max(told->limits.most, field.limits.most);
                continue;
            }
            const std::string limits = field.limits.text();
            const std::string_view meaning =
                limits.empty() ? field.meaning : kept(std::string(field.meaning) + "; " + limits);
            keys_.push_back({path, name_of(field.type), name_of(field.unit), field.standard, meaning,
                             field.limits, field.words});
        }
    }

    std::string_view kept(std::string text) { return texts_.emplace_back(std::move(text)); }

    std::vector<FileKey> keys_;
    std::deque<std::string> texts_;  // a deque, so that they stay where they are
};

constexpr std::array drill_keys = {
    FileKey{"format", "string", "", "required", "\"hollow-probe drill 1\""},
    FileKey{"level", "string", "", "required", "The level file, relative to this one"},
    FileKey{"rig", "string", "", "required", "The rig file, relative to this one"},
    FileKey{"start", "string", "", "this or `at`", "The name of a start point of the level"},
    FileKey{"at", "vector", "length", "this or `start`", "Where the anchor is at the start"},
    FileKey{"heading", "vector", "", "that of the start point, or the first axis",
            "Where the body faces at the start"},
    FileKey{"stance", "string", "", "the first", "The stance at the start"},
    FileKey{"tick_rate", "number", "1/s", "60.0", "Ticks a second; more than 0"},
    FileKey{"frame_rate", "number", "1/s", "one frame a tick", "Frames a second; more than 0"},
    FileKey{"frame_jitter", "number", "", "0.0",
            "Each frame lasts up to this part of it longer or shorter, at random by `frame_seed`; 0 to 0.9"},
    FileKey{"frame_seed", "integer", "", "0", "Another one gives other frames"},
    FileKey{
        "frame_lengths", "list of numbers", "s", "all alike",
        "How long each frame lasts, one after the other and from the first again: instead of `frame_rate`"},
    FileKey{"sampled", "string", "", "\"on_tick\"",
            "When a press shows: \"on_tick\", to the next tick; \"on_frame\", to the ticks that run in the "
            "next frame, be it none or several"},
    FileKey{"seconds", "number", "s", "required", "How long it lasts; more than 0"},
    FileKey{"motion.model", "string", "", "\"slide\"", "\"free\", \"slide\", \"push_out\" or \"loose\""},
    FileKey{"motion.gravity", "number", "length/s²", "0.0",
            "Against up; without it the drive may point anywhere"},
    FileKey{"motion.jump_speed", "number", "length/s", "0.0", "The speed of taking off"},
    FileKey{
        "motion.top_speed", "number", "length/s", "0.0",
        "The speed a full drive reaches; or one while the rig remembers ground and one while it does not"},
    FileKey{"motion.top_speed.grounded", "number", "length/s", "0.0", "… while it remembers ground"},
    FileKey{"motion.top_speed.airborne", "number", "length/s", "0.0", "… while it does not"},
    FileKey{"motion.acceleration", "number", "length/s²", "at once",
            "Towards that speed, 0 at once; not for loose; or one on the ground and one in the air"},
    FileKey{"motion.acceleration.grounded", "number", "length/s²", "at once",
            "… while the rig remembers ground"},
    FileKey{"motion.acceleration.airborne", "number", "length/s²", "at once", "… while it does not"},
    FileKey{"motion.drag", "number", "1/s", "0.0",
            "The part of the speed lost in a second; or one on the ground and one in the air"},
    FileKey{"motion.drag.grounded", "number", "1/s", "0.0", "… while the rig remembers ground"},
    FileKey{"motion.drag.airborne", "number", "1/s", "0.0", "… while it does not"},
    FileKey{"motion.coasts", "string", "", "\"never\"",
            "When a body without drive keeps its speed: \"never\", \"airborne\" or \"always\""},
    FileKey{"motion.on[].layer", "string", "", "required",
            "A layer: what follows holds while the body's ground is of it"},
    FileKey{"motion.on[].top_speed", "number", "length/s", "as elsewhere",
            "The speed a full drive reaches there"},
    FileKey{"motion.on[].acceleration", "number", "length/s²", "as elsewhere", "Towards that speed"},
    FileKey{"motion.on[].friction", "number", "", "as elsewhere", "The coefficient of friction"},
    FileKey{"motion.on[].drag", "number", "1/s", "as elsewhere", "The part of the speed lost in a second"},
    FileKey{"motion.friction", "number", "", "0.0", "Its coefficient, on whatever is touched; not for free"},
    FileKey{"motion.stopped", "string", "", "\"lost\"",
            "What becomes of a speed into what stopped it: \"lost\", or \"kept\" as the game's own"},
    FileKey{"motion.turns", "boolean", "", "true", "Whether the heading follows the drive"},
    FileKey{"motion.grain", "number", "length", "any way", "free: moves are whole multiples of it"},
    FileKey{"motion.approach", "string", "", "\"cancel\"",
            "free with a grain: what cancel_axis does, \"cancel\" or \"creep\" grain by grain"},
    FileKey{"motion.mass", "number", "mass", "80.0", "loose: of the body"},
    FileKey{"motion.force", "number", "mass·length/s²", "0.0", "loose: of a full drive"},
    FileKey{"motion.bounce", "number", "", "0.0",
            "loose: the part of the speed of approach given back, 0 to 1"},
    FileKey{"cue[].at", "number", "s", "required", "When; 0 or more"},
    FileKey{"cue[].drive", "vector", "", "as before",
            "Where the player wants to go from now on; longer than 1 counts as 1, zero lets go"},
    FileKey{"cue[].heading", "vector", "", "as before", "Where the body faces from now on, if turns = false"},
    FileKey{"cue[].press", "string", "", "none", "A key that is pressed: \"jump\", or an event of the rig"},
    FileKey{"cue[].stance", "string", "", "as before", "The stance asked for from now on"},
    FileKey{"loose[].solid", "string", "", "required", "loose: a solid of the level that can be pushed"},
    FileKey{"loose[].mass", "number", "mass", "required", "… its mass; more than 0"},
    FileKey{"loose[].friction", "number", "", "0.5", "… its coefficient of friction"},
    FileKey{"expect[].most", "table of figures", "", "none",
            "Each figure named is no more than this: `{ hang_time = 0.05 }`"},
    FileKey{"expect[].least", "table of figures", "", "none", "… no less than this"},
    FileKey{"expect[].signal", "string", "", "the worst of all",
            "The signal that figures of signals are about"},
    FileKey{"expect[].reaches", "string", "", "none", "An area of the level that the anchor comes into"},
    FileKey{"expect[].never_reaches", "string", "", "none", "An area that it never comes into"},
};

constexpr std::array suite_keys = {
    FileKey{"format", "string", "", "required", "\"hollow-probe suite 1\""},
    FileKey{"survey[].name", "string", "", "the names of its files", "What the report calls it"},
    FileKey{"survey[].level", "string", "", "required", "The level file, relative to this one"},
    FileKey{"survey[].rig", "string", "", "required", "The rig file, relative to this one"},
    FileKey{"survey[].missed", "integer or string", "poses, or %", "0",
            "How many missed contacts there may be, or what share of what is true or signalled: \"0.5 %\""},
    FileKey{"survey[].false", "integer or string", "poses, or %", "0", "How many false contacts"},
    FileKey{"survey[].claims", "integer", "poses", "0", "How many poses that contradict a claim"},
    FileKey{"survey[].spacing", "number", "length", "a quarter of the body's width", "As --spacing"},
    FileKey{"survey[].headings", "integer", "", "4", "As --headings"},
    FileKey{"survey[].stances", "list of strings", "", "all", "As --stance"},
    FileKey{"survey[].area", "string", "", "everywhere", "As --area"},
    FileKey{"survey[].known[].id", "string", "", "required", "A finding that is accepted, by its id"},
    FileKey{"survey[].known[].reason", "string", "", "required", "Why"},
    FileKey{"survey[].known[].measure", "number", "area or volume", "any size",
            "How large it was: it fails if it is larger by more than a hundredth"},
    FileKey{"survey[].known[].mended", "boolean", "", "false", "It was mended, and fails if it comes back"},
    FileKey{"drill[].file", "string", "", "required", "The drill file, relative to this one"},
    FileKey{"drill[].tick_rates", "list of numbers", "1/s", "that of the drill", "Played at each of them"},
    FileKey{"drill[].phases", "integer", "", "1", "Played so many times, each a part of a tick later"},
    FileKey{"hunt[].drill", "string", "", "required", "The drill file to hunt with, relative to this one"},
    FileKey{"hunt[].seed", "integer", "", "0", "As --seed"},
    FileKey{"hunt[].ticks", "integer", "", "2000000", "How many ticks to play before it gives up"},
};

}  // namespace

std::span<const FileKey> level_file_keys() {
    return level_keys;
}

std::span<const FileKey> rig_file_keys() {
    static const RigKeys keys;
    return keys.all();
}

std::span<const FileKey> drill_file_keys() {
    return drill_keys;
}

std::span<const FileKey> suite_file_keys() {
    return suite_keys;
}

}  // namespace hollow_probe

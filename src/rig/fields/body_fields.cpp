// The fields of the intent and of stances.
#include "rig/shape_fields.hpp"

namespace hollow_probe {
namespace {

constexpr Limits right_angle = {0.0, 90.0};

template <auto... Path>
constexpr Field<Intent> length(std::string_view key, std::string_view standard, std::string_view meaning,
                               Limits limits = from_0) {
    return held_at<Path...>(Field<Intent>{
        .key = key, .unit = Unit::length, .standard = standard, .meaning = meaning, .limits = limits});
}

/// Of the intent's forgiveness.
template <auto Member>
constexpr Field<Intent> seconds(std::string_view key, std::string_view meaning) {
    return held_at<&Intent::forgive, Member>(Field<Intent>{
        .key = key, .unit = Unit::seconds, .standard = "0.0", .meaning = meaning, .limits = from_0});
}

/// 0 stands for the standard, half the stance's width.
FieldValue tread_of(const Intent& intent) {
    return intent.tread > 0.0 ? FieldValue(intent.tread) : FieldValue();
}

FieldValue move_of(const Intent& intent) {
    return intent.ahead_move > 0.0 ? FieldValue(intent.ahead_move) : FieldValue();
}

FieldValue move_seconds_of(const Intent& intent) {
    return intent.ahead_move > 0.0 ? FieldValue() : FieldValue(intent.ahead_move_seconds);
}

void set_move_seconds(Intent& intent, const FieldValue& value) {
    intent.ahead_move = 0.0;
    intent.ahead_move_seconds = std::get<double>(value);
}

template <int D, FieldValue (*Get)(const RoundedHull<D>&)>
constexpr Field<Stance<D>> shaped(Field<Stance<D>> field) {
    field.unit = Unit::length;
    field.get = [](const Stance<D>& stance) { return Get(stance.shape); };
    return field;
}

}  // namespace

std::span<const Field<Intent>> intent_fields() {
    using I = Intent;
    static constexpr std::array fields = {
        length<&I::touch>("touch", "0.02", "The largest gap that still counts as contact", above_0),
        held_at<&I::steepest_footing_degrees>(Field<I>{.key = "steepest_footing",
                                                       .unit = Unit::degrees,
                                                       .standard = "45.0",
                                                       .meaning = "The steepest slope that is footing",
                                                       .limits = right_angle}),
        held_at<&I::ceiling_within_degrees>(
            Field<I>{.key = "ceiling_within",
                     .unit = Unit::degrees,
                     .standard = "60.0",
                     .meaning = "How far from straight down the normal of a ceiling may be",
                     .limits = right_angle}),
        length<&I::lowest_step>(
            "lowest_step", "0.05",
            "The least rise that is a step; what rises less stops the body as a wall does"),
        length<&I::tallest_step>("tallest_step", "0.35",
                                 "The greatest rise that is a step; more than `lowest_step`"),
        length<&I::ahead_step>("ahead_step", "0.02", "How near a step counts"),
        Field<I>{.key = "tread",
                 .unit = Unit::length,
                 .standard = "half the stance's width",
                 .meaning = "How far on to a step the body must get",
                 .limits = above_0,
                 .get = tread_of,
                 .set = held_at<&I::tread>(Field<I>{}).set},
        length<&I::ahead_wall>("ahead_wall", "0.02", "How near a wall counts"),
        length<&I::ahead_drop>("ahead_drop", "0.5", "How near a drop counts"),
        length<&I::deepest_drop>("deepest_drop", "0.6",
                                 "How deep below the feet the ground may fall off without being a drop"),
        length<&I::ahead_ledge>("ahead_ledge", "0.5", "How near a ledge counts"),
        held_at<&I::ledge_between>(Field<I>{
            .key = "ledge_between",
            .type = FieldType::pair,
            .unit = Unit::length,
            .standard = "[0.5, 1.5]",
            .meaning = "The heights above the anchor between which a ledge's edge lies; both ends inclusive, "
                       "the lower first",
            .ordered = true}),
        Field<I>{.key = "ahead_move",
                 .type = FieldType::number_or_table,
                 .unit = Unit::length,
                 .standard = "{ seconds = 0.0167 }",
                 .meaning = "The planned move that `blocked` is about",
                 .limits = above_0,
                 .get = move_of,
                 .set = held_at<&I::ahead_move>(Field<I>{}).set},
        Field<I>{.key = "ahead_move.seconds",
                 .unit = Unit::seconds,
                 .meaning = "… as the time in which the present speed makes it",
                 .limits = above_0,
                 .get = move_seconds_of,
                 .set = set_move_seconds},
        seconds<&Forgiveness::late>("forgive.late",
                                    "How long a signal may go on saying what was true, by intent"),
        seconds<&Forgiveness::early>("forgive.early", "How long before a signal may say what will be true"),
        length<&I::forgive, &Forgiveness::hold>(
            "forgive.hold", "0.0",
            "A larger touch that counts as ground while contact is remembered; more than touch"),
        seconds<&Forgiveness::after_take_off>("forgive.after_take_off",
                                              "How long after a jump ground need not be told"),
        length<&I::moves, &Moves::jump_height>(
            "moves.jump_height", "0.0",
            "How high a jump lifts the body; what the player can reach comes first in a survey"),
        length<&I::moves, &Moves::jump_length>("moves.jump_length", "0.0",
                                               "How far a jump carries it, to the same height"),
    };
    return fields;
}

template <int D>
std::span<const Field<Stance<D>>> stance_fields() {
    using S = Stance<D>;
    static constexpr std::array fields = {
        held_at<&S::name>(Field<S>{
            .key = "name", .type = FieldType::text, .meaning = "The stance's name, given once in the rig"}),
        shaped<D, radius_of<D, ShapeForm::capsule>>(
            Field<S>{.key = "capsule.radius", .meaning = "An upright capsule's radius", .limits = above_0}),
        shaped<D, capsule_height_of<D>>(Field<S>{.key = "capsule.height",
                                                 .meaning = "Its overall height, at least twice the radius",
                                                 .limits = above_0}),
        shaped<D, box_size_of<D>>(Field<S>{.key = "box.size",
                                           .type = FieldType::vector,
                                           .meaning = "A box's size: forward, up and (3D) right",
                                           .limits = above_0}),
        shaped<D, radius_of<D, ShapeForm::ball>>(
            Field<S>{.key = "ball.radius", .meaning = "A ball's radius", .limits = above_0}),
        shaped<D, corners_of<D>>(
            Field<S>{.key = "hull.points",
                     .type = FieldType::points,
                     .meaning = "Convex corners in body coordinates, the lowest at height 0"}),
        shaped<D, radius_of<D, ShapeForm::hull>>(Field<S>{.key = "hull.radius",
                                                          .standard = "0.0",
                                                          .meaning = "Rounds the hull: it grows by this much",
                                                          .limits = from_0}),
    };
    return fields;
}

template std::span<const Field<Stance<2>>> stance_fields<2>();
template std::span<const Field<Stance<3>>> stance_fields<3>();

}  // namespace hollow_probe

// The fields of a reflex.
#include "rig/field_access.hpp"
#include "rig/words.hpp"

namespace hollow_probe {
namespace {

FieldValue when_of(const Reflex& reflex) {
    return std::int64_t{reflex.when_off ? 1 : 0};
}

void set_when(Reflex& reflex, const FieldValue& value) {
    reflex.when_off = std::get<std::int64_t>(value) == 1;
}

}  // namespace

std::span<const Field<Reflex>> reflex_fields() {
    using R = Reflex;
    using enum FieldType;
    using enum ReflexKind;
    static constexpr std::array fields = {
        held_at<&R::name>(Field<R>{.key = "name",
                                   .type = text,
                                   .standard = "\"<on> <do>\"",
                                   .meaning =
                                       "The reflex's name: one of that name in a file that is extended "
                                       "is replaced"}),
        held_at<&R::on>(Field<R>{.key = "on",
                                 .type = text,
                                 .meaning = "The signal it acts on; reflexes act in the order given",
                                 .names = NamesOf::signals}),
        held_at<&R::kind>(Field<R>{.key = "do",
                                   .type = word,
                                   .meaning =
                                       "What the game does: \"permit_jump\", \"zero_fall\", \"stop_rise\", "
                                       "\"cancel_drive\", \"cancel_axis\", \"hold_height\", \"press_down\", "
                                       "\"lift_over\", \"hug_ground\", \"carry_along\", \"turn_back\" or "
                                       "\"refuse_stance\"; see docs/drills.md",
                                   .words = reflex_words}),
        Field<R>{.key = "when",
                 .type = word,
                 .standard = "\"on\"",
                 .meaning = "Whether it acts while the signal is \"on\" or \"off\"",
                 .words = when_words,
                 .get = when_of,
                 .set = set_when},
        held_at<&R::speed>(Field<R>{.key = "kickback",
                                    .unit = Unit::speed,
                                    .standard = "0.0",
                                    .meaning = "stop_rise: the speed downwards that is left",
                                    .limits = from_0,
                                    .kinds = only(stop_rise)}),
        held_at<&R::speed>(Field<R>{.key = "speed",
                                    .unit = Unit::speed,
                                    .standard = "0.0",
                                    .meaning = "press_down: the least speed downwards",
                                    .limits = from_0,
                                    .kinds = only(press_down)}),
        held_at<&R::by>(
            Field<R>{.key = "by",
                     .unit = Unit::length,
                     .standard = "required for these",
                     .meaning = "lift_over, hug_ground: how far it lifts or moves the body at most",
                     .limits = above_0,
                     .kinds = only(lift_over, hug_ground)}),
        held_at<&R::axis>(Field<R>{.key = "axis",
                                   .type = word,
                                   .standard = "\"across_up\"",
                                   .meaning = "cancel_axis: which part of the velocity is cancelled, "
                                              "\"across_up\" or \"along_up\"",
                                   .kinds = only(cancel_axis),
                                   .words = reflex_axis_words}),
        held_at<&R::stance>(Field<R>{.key = "stance",
                                     .type = text,
                                     .standard = "required for it",
                                     .meaning = "refuse_stance: the stance that is not taken",
                                     .kinds = only(refuse_stance),
                                     .names = NamesOf::stances}),
    };
    return fields;
}

}  // namespace hollow_probe

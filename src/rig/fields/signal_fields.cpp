// The fields of signals and of the members of their groups.
#include "rig/field_access.hpp"
#include "rig/words.hpp"

namespace hollow_probe {
namespace {

FieldValue claims_of(const Signal& signal) {
    return signal.claims ? FieldValue(static_cast<std::int64_t>(*signal.claims)) : FieldValue();
}

constexpr std::uint32_t toward_claims() {
    std::uint32_t kinds = 0;
    for (const Claim claim : all_claims) kinds |= is_toward(claim) ? only(claim) : 0U;
    return kinds;
}

/// Those that claim a truth; a helper's kind is the one beyond all claims.
constexpr std::uint32_t claiming = (1U << all_claims.size()) - 1U;

/// Given only where the count is asked for.
FieldValue count_of(const Signal& signal) {
    const AtLeast& counted = signal.members.at_least;
    return counted.of.empty() ? FieldValue() : value_of(counted.count);
}

/// `none` is no value to give, and not written.
FieldValue gives_of(const Signal& signal) {
    return signal.gives == Value::none ? FieldValue()
                                       : FieldValue(static_cast<std::int64_t>(signal.gives) - 1);
}

void set_gives(Signal& signal, const FieldValue& value) {
    signal.gives = static_cast<Value>(std::get<std::int64_t>(value) + 1);
}

FieldValue gives_from_of(const Signal& signal) {
    return signal.gives == Value::none ? FieldValue() : FieldValue(signal.gives_from);
}

FieldValue mute_seconds_of(const Signal& signal) {
    return signal.mute_after.event.empty() ? FieldValue() : FieldValue(signal.mute_after.seconds);
}

/// A list of the group that a member is; of none where it names a probe.
template <auto... Path>
constexpr Field<Member> in_group(Field<Member> field) {
    field.get = [](const Member& member) {
        return member.group.empty() ? FieldValue() : value_of(through<Path...>(member.group.front()));
    };
    field.set = [](Member& member, const FieldValue& value) {
        if (member.group.empty()) member.group.emplace_back();
        assign(through<Path...>(member.group.front()), value);
    };
    return field;
}

FieldValue count_in_group(const Member& member) {
    if (member.group.empty() || member.group.front().at_least.of.empty()) return {};
    return value_of(member.group.front().at_least.count);
}

}  // namespace

std::span<const Field<Signal>> signal_fields() {
    using S = Signal;
    using enum FieldType;
    static constexpr std::array fields = {
        held_at<&S::name>(
            Field<S>{.key = "name", .type = text, .meaning = "The signal's name, given once in the rig"}),
        Field<S>{.key = "claims",
                 .type = word,
                 .standard = "none: a helper",
                 .meaning =
                     "The truth it claims: \"ground\", \"ceiling\", \"wall\", \"step\", \"drop\", "
                     "\"ledge\", \"headroom\" or \"blocked\". Without, it is a helper of other signals: "
                     "drawn and recorded, not judged",
                 .words = claim_words,
                 .get = claims_of,
                 .set = held_at<&S::claims>(Field<S>{}).set},
        held_at<&S::of>(Field<S>{.key = "of",
                                 .type = names,
                                 .standard = "all the body meets",
                                 .meaning = "Layers: its truth is limited to pieces on them. Kinds of ground "
                                            "are told apart that way",
                                 .kinds = claiming,
                                 .names = NamesOf::layers}),
        held_at<&S::toward>(Field<S>{.key = "toward",
                                     .type = word,
                                     .standard = "what its probes aim by",
                                     .meaning = "The direction walls, steps, drops, ledges and `blocked` are "
                                                "asked for in: \"heading\", \"drive\" or \"velocity\"",
                                     .kinds = toward_claims(),
                                     .words = toward_words}),
        held_at<&S::stance>(Field<S>{.key = "stance",
                                     .type = text,
                                     .standard = "the present one; headroom must have it",
                                     .meaning = "Headroom: the stance that is to fit. Ledge: the stance that "
                                                "is to have room on it",
                                     .kinds = only(Claim::headroom, Claim::ledge),
                                     .names = NamesOf::stances}),
        held_at<&S::members, &Group::any>(
            Field<S>{.key = "any",
                     .type = members,
                     .standard = "none",
                     .meaning = "At least one of these is on. A member is the name of a probe, of a signal "
                                "declared before, or a table"}),
        held_at<&S::members, &Group::all>(
            Field<S>{.key = "all", .type = members, .standard = "none", .meaning = "Each of these is on"}),
        held_at<&S::members, &Group::none>(
            Field<S>{.key = "none", .type = members, .standard = "none", .meaning = "Each of these is off"}),
        Field<S>{.key = "at_least.count",
                 .type = integer,
                 .meaning = "So many of the members in `of` are on",
                 .limits = {1.0, most_probes},
                 .get = count_of,
                 .set = held_at<&S::members, &Group::at_least, &AtLeast::count>(Field<S>{}).set},
        held_at<&S::members, &Group::at_least, &AtLeast::of>(
            Field<S>{.key = "at_least.of", .type = members, .meaning = "Those that are counted"}),
        held_at<&S::settle>(Field<S>{.key = "settle",
                                     .unit = Unit::seconds,
                                     .standard = "0.0",
                                     .meaning = "How long it must hold before it turns on",
                                     .limits = from_0}),
        held_at<&S::grace>(Field<S>{.key = "grace",
                                    .unit = Unit::seconds,
                                    .standard = "0.0",
                                    .meaning = "How long it stays on after",
                                    .limits = from_0}),
        held_at<&S::mute_after, &MuteAfter::event>(
            Field<S>{.key = "mute_after.event", .type = text, .meaning = "An event that keeps it off …"}),
        Field<S>{.key = "mute_after.seconds",
                 .unit = Unit::seconds,
                 .meaning = "… for so long",
                 .limits = from_0,
                 .get = mute_seconds_of,
                 .set = held_at<&S::mute_after, &MuteAfter::seconds>(Field<S>{}).set},
        Field<S>{.key = "gives.value",
                 .type = word,
                 .meaning = "What it tells besides: \"ground_height\", \"slope\", \"wall_normal\", "
                            "\"step_rise\" or \"edge_distance\"",
                 .kinds = claiming,
                 .words = std::span(value_words).subspan(1),
                 .get = gives_of,
                 .set = set_gives},
        Field<S>{.key = "gives.from",
                 .type = text,
                 .meaning = "The probe whose reading it takes it from",
                 .kinds = claiming,
                 .names = NamesOf::probes,
                 .get = gives_from_of,
                 .set = held_at<&S::gives_from>(Field<S>{}).set},
    };
    return fields;
}

std::span<const Field<Member>> member_fields() {
    using M = Member;
    using enum FieldType;
    static constexpr std::array fields = {
        held_at<&M::name>(
            Field<M>{.key = "probe",
                     .type = text,
                     .standard = "this or a group",
                     .meaning = "A member as a table, in whichever list: a probe with conditions",
                     .names = NamesOf::probes}),
        held_at<&M::angle_degrees>(Field<M>{.key = "angle",
                                            .type = pair,
                                            .unit = Unit::degrees,
                                            .standard = "any",
                                            .meaning =
                                                "… on only if the hit's normal is so far from up; both "
                                                "ends inclusive, the lower first",
                                            .limits = {0.0, 180.0},
                                            .ordered = true}),
        held_at<&M::distance>(Field<M>{.key = "distance",
                                       .type = pair,
                                       .unit = Unit::length,
                                       .standard = "any",
                                       .meaning = "… and the hit so far away; both ends inclusive, the lower "
                                                  "first",
                                       .limits = from_0,
                                       .ordered = true}),
        held_at<&M::layers>(Field<M>{.key = "layers",
                                     .type = names,
                                     .standard = "any",
                                     .meaning = "… and on one of these layers",
                                     .names = NamesOf::layers}),
        in_group<&Group::any>(
            Field<M>{.key = "any", .type = members, .standard = "none", .meaning = "Or a group of its own"}),
        in_group<&Group::all>(Field<M>{.key = "all", .type = members, .standard = "none", .meaning = "…"}),
        in_group<&Group::none>(Field<M>{.key = "none", .type = members, .standard = "none", .meaning = "…"}),
        Field<M>{.key = "at_least.count",
                 .type = integer,
                 .meaning = "…",
                 .limits = {1.0, most_probes},
                 .get = count_in_group,
                 .set = in_group<&Group::at_least, &AtLeast::count>(Field<M>{}).set},
        in_group<&Group::at_least, &AtLeast::of>(
            Field<M>{.key = "at_least.of", .type = members, .meaning = "…"}),
    };
    return fields;
}

}  // namespace hollow_probe

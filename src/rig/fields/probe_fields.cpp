// The fields of a probe.
#include <algorithm>

#include "rig/shape_fields.hpp"
#include "rig/words.hpp"

namespace hollow_probe {
namespace {

constexpr std::uint32_t rays = only(ProbeKind::ray);
constexpr std::uint32_t casts = only(ProbeKind::cast);
constexpr std::uint32_t zones = only(ProbeKind::zone);
constexpr std::uint32_t shifts = only(ProbeKind::shift);
constexpr std::uint32_t contacts = only(ProbeKind::contact);
constexpr std::uint32_t rays_and_casts = rays | casts;

constexpr double most_counted = most_lines;

/// A direction along an axis has a name.
template <int D>
FieldValue along_value(const Probe<D>& probe) {
    const Vec<D>* const along = along_of(probe);
    if (along == nullptr) return {};
    const Aim* const aim = aim_of(probe);
    if (aim != nullptr && *aim != Aim::fixed) return std::string(*aim == Aim::drive ? "drive" : "velocity");
    static constexpr std::array<std::array<const char*, 2>, 3> names = {
        {{"forward", "backward"}, {"up", "down"}, {"right", "left"}}};
    for (int axis = 0; axis < D; ++axis) {
        for (std::size_t side = 0; side < 2; ++side) {
            if (*along == (side == 0 ? 1.0 : -1.0) * Vec<D>::unit(axis))
                return std::string(names[static_cast<std::size_t>(axis)][side]);
        }
    }
    return value_of<Vec<D>>(*along);
}

/// Zones rest: they are never aimed.
template <int D>
void set_aim(Probe<D>& probe, Aim to) {
    if (Aim* const aim = aim_of(probe)) {
        *aim = to;
    } else if (to != Aim::fixed) {
        throw InvalidInput("a zone is not aimed by drive or velocity");
    }
}

template <int D>
void set_along(Probe<D>& probe, const FieldValue& value) {
    Vec<D>& along = *along_of(probe);
    if (const auto* const numbers = std::get_if<std::vector<double>>(&value)) {
        Vec<D> given;
        assign(given, *numbers);
        if (given.norm() == 0.0) throw InvalidInput("'along' has no length, expected a direction");
        set_aim<D>(probe, Aim::fixed);
        along = given.normalized();
        return;
    }
    const auto& word = std::get<std::string>(value);
    static constexpr std::array<std::string_view, 8> words = {"down",  "up",       "forward", "backward",
                                                              "drive", "velocity", "left",    "right"};
    const auto known = std::span(words).first(D == 2 ? 6 : 8);
    const auto found = std::find(known.begin(), known.end(), word);
    if (found == known.end()) {
        std::string expected;
        for (const std::string_view each : known)
            expected += (expected.empty() ? "" : ", ") + std::string(each);
        throw InvalidInput("'along' is \"" + word + "\", expected one of " + expected);
    }
    const auto number = static_cast<std::size_t>(found - known.begin());
    const bool is_aimed = number == 4 || number == 5;
    set_aim<D>(probe, number == 4 ? Aim::drive : number == 5 ? Aim::velocity : Aim::fixed);
    const int axis = is_aimed || number == 2 || number == 3 ? 0 : number < 2 ? 1 : D - 1;
    const bool negative = number == 0 || number == 3 || number == 6;
    along = (negative ? -1.0 : 1.0) * Vec<D>::unit(axis);
}

/// The three ways in which a reach is written.
enum class ReachForm : std::uint8_t { plain, by_state, by_speed };

template <int D>
ReachForm form_of(const Probe<D>& probe) {
    if (*reach_grounded_of(probe)) return ReachForm::by_state;
    return *reach_per_speed_of(probe) != 0.0 ? ReachForm::by_speed : ReachForm::plain;
}

template <int D, ReachForm Form>
constexpr Field<Probe<D>> reach_in(Field<Probe<D>> field) {
    field.get = [](const Probe<D>& probe) {
        const double* const reach = reach_of(probe);
        return reach != nullptr && form_of<D>(probe) == Form ? FieldValue(*reach) : FieldValue();
    };
    field.set = [](Probe<D>& probe, const FieldValue& value) { assign(*reach_of(probe), value); };
    return field;
}

template <int D>
constexpr Field<Probe<D>> grounded_reach(Field<Probe<D>> field) {
    field.get = [](const Probe<D>& probe) {
        const std::optional<double>* const reach = reach_grounded_of(probe);
        return reach != nullptr ? value_of(*reach) : FieldValue();
    };
    field.set = [](Probe<D>& probe, const FieldValue& value) { assign(*reach_grounded_of(probe), value); };
    return field;
}

template <int D>
constexpr Field<Probe<D>> reach_by_speed(Field<Probe<D>> field) {
    field.get = [](const Probe<D>& probe) {
        const double* const by_speed = reach_per_speed_of(probe);
        return by_speed != nullptr && form_of<D>(probe) == ReachForm::by_speed ? FieldValue(*by_speed)
                                                                               : FieldValue();
    };
    field.set = [](Probe<D>& probe, const FieldValue& value) { assign(*reach_per_speed_of(probe), value); };
    return field;
}

template <int D>
constexpr Field<Probe<D>> started_from(Field<Probe<D>> field) {
    field.get = [](const Probe<D>& probe) {
        const Vec<D>* const from = from_of(probe);
        return from != nullptr ? value_of(*from) : FieldValue();
    };
    field.set = [](Probe<D>& probe, const FieldValue& value) { assign(*from_of(probe), value); };
    return field;
}

template <int D>
constexpr Field<Probe<D>> told_of_one_ways(Field<Probe<D>> field) {
    field.get = [](const Probe<D>& probe) {
        const OneWay* const one_way = one_way_of(probe);
        return one_way != nullptr ? value_of(*one_way) : FieldValue();
    };
    field.set = [](Probe<D>& probe, const FieldValue& value) { assign(*one_way_of(probe), value); };
    return field;
}

/// A member of one kind alone, through pointers to members.
template <class Kind, auto... Path, int D>
constexpr Field<Probe<D>> of_kind(Field<Probe<D>> field) {
    field.get = [](const Probe<D>& probe) {
        const auto* const kind = std::get_if<Kind>(&probe.of_kind);
        return kind != nullptr ? value_of(through<Path...>(*kind)) : FieldValue();
    };
    field.set = [](Probe<D>& probe, const FieldValue& value) {
        assign(through<Path...>(std::get<Kind>(probe.of_kind)), value);
    };
    return field;
}

template <int D>
FieldValue kind_of_probe(const Probe<D>& probe) {
    return static_cast<std::int64_t>(probe.kind());
}

/// A range of angles, both of whose ends are members of a line.
template <int D, double LineProbe<D>::*Least, double LineProbe<D>::*Most>
constexpr Field<Probe<D>> angles_of_line(Field<Probe<D>> field) {
    field.type = FieldType::pair;
    field.unit = Unit::degrees;
    field.standard = "[0.0, 180.0]";
    field.limits = {0.0, 180.0};
    field.ordered = true;
    field.kinds = rays_and_casts;
    field.get = [](const Probe<D>& probe) {
        return probe.is_line() ? FieldValue(std::vector<double>{probe.line().*Least, probe.line().*Most})
                               : FieldValue();
    };
    field.set = [](Probe<D>& probe, const FieldValue& value) {
        std::array<double, 2> angles{};
        assign(angles, value);
        probe.line().*Least = angles[0];
        probe.line().*Most = angles[1];
    };
    return field;
}

template <int D>
bool is_used(const Probe<D>& probe) {
    return probe.kind() == ProbeKind::zone && probe.zone().keeps == Keeps::until_used;
}

template <int D>
FieldValue used_by_of(const Probe<D>& probe) {
    return is_used<D>(probe) ? FieldValue(probe.zone().used_by) : FieldValue();
}

template <int D>
void set_used_by(Probe<D>& probe, const FieldValue& value) {
    if (!is_used<D>(probe)) throw InvalidInput("'used_by' is for keeps = \"until_used\"");
    probe.zone().used_by = std::get<std::string>(value);
}

/// `Set` makes the shape with the value from the shape as it is; none: it is read with others.
template <int D, FieldValue (*Get)(const RoundedHull<D>&), auto Set = nullptr>
constexpr Field<Probe<D>> shaped(Field<Probe<D>> field) {
    field.get = [](const Probe<D>& probe) {
        const RoundedHull<D>* const shape = shape_of(probe);
        return shape != nullptr ? Get(*shape) : FieldValue();
    };
    if constexpr (!std::is_null_pointer_v<decltype(Set)>) {
        field.set = [](Probe<D>& probe, const FieldValue& value) {
            RoundedHull<D>* const shape = shape_of(probe);
            const bool is_of_form = shape != nullptr && !std::holds_alternative<std::monostate>(Get(*shape));
            if (!is_of_form) throw InvalidInput("the probe has a shape of another kind");
            *shape = Set(*shape, value);
        };
    }
    return field;
}

template <int D>
RoundedHull<D> box_of_size(const RoundedHull<D>& shape, const FieldValue& value) {
    Vec<D> size;
    assign(size, value);
    return RoundedHull<D>::box(shape.bounds().center(), size);
}

template <int D>
RoundedHull<D> ball_of_radius(const RoundedHull<D>& shape, const FieldValue& value) {
    return RoundedHull<D>::ball(shape.points().front(), std::get<double>(value));
}

template <int D>
RoundedHull<D> upright(const Vec<D>& middle, double radius, double height) {
    if (!(height >= 2.0 * radius)) throw InvalidInput("'height' is less than twice the radius");
    const Vec<D> end = (0.5 * height - radius) * Vec<D>::unit(1);
    return RoundedHull<D>::capsule(middle - end, middle + end, radius);
}

/// The height stays.
template <int D>
RoundedHull<D> capsule_of_radius(const RoundedHull<D>& shape, const FieldValue& value) {
    const double height = std::get<double>(capsule_height_of<D>(shape));
    return upright<D>(shape.bounds().center(), std::get<double>(value), height);
}

template <int D>
RoundedHull<D> capsule_of_height(const RoundedHull<D>& shape, const FieldValue& value) {
    return upright<D>(shape.bounds().center(), shape.radius(), std::get<double>(value));
}

template <int D>
RoundedHull<D> hull_of_radius(const RoundedHull<D>& shape, const FieldValue& value) {
    return shape.with_radius(std::get<double>(value));
}

/// None, of what cannot be spread.
template <int D>
const Spread& spread_of(const Probe<D>& probe) {
    static const Spread none;
    return probe.is_line() ? probe.line().spread : none;
}

/// A member of the spread, given where it is of that kind.
template <int D, SpreadKind Kind, auto Member>
constexpr Field<Probe<D>> spread_by(Field<Probe<D>> field) {
    field.kinds = rays_and_casts;
    field.get = [](const Probe<D>& probe) {
        return spread_of<D>(probe).kind == Kind ? value_of(spread_of<D>(probe).*Member) : FieldValue();
    };
    field.set = [](Probe<D>& probe, const FieldValue& value) {
        probe.line().spread.kind = Kind;
        assign(probe.line().spread.*Member, value);
    };
    return field;
}

template <int D, SpreadKind Kind>
constexpr Field<Probe<D>> spread_axis(Field<Probe<D>> field) {
    field.kinds = rays_and_casts;
    field.get = [](const Probe<D>& probe) {
        const Spread& spread = spread_of<D>(probe);
        if (spread.kind != Kind || spread.axis == SpreadAxis::standard) return FieldValue();
        return FieldValue(static_cast<std::int64_t>(spread.axis) - 1);
    };
    field.set = [](Probe<D>& probe, const FieldValue& value) {
        probe.line().spread.axis = static_cast<SpreadAxis>(std::get<std::int64_t>(value) + 1);
    };
    return field;
}

template <int D>
FieldValue least_of(const Probe<D>& probe) {
    const int least = spread_of<D>(probe).least;
    return least == 1 ? FieldValue() : value_of(least);
}

}  // namespace

template <int D>
std::span<const Field<Probe<D>>> probe_fields() {
    using P = Probe<D>;
    using Line = LineProbe<D>;
    using Zone = ZoneProbe<D>;
    using Shift = ShiftProbe<D>;
    using enum FieldType;
    static constexpr std::array fields = {
        held_at<&P::name>(
            Field<P>{.key = "name", .type = text, .meaning = "The probe's name, given once in the rig"}),
        Field<P>{.key = "kind",
                 .type = word,
                 .meaning =
                     "\"ray\"; \"cast\", a shape swept along a line; \"zone\", a resident overlap volume; "
                     "\"shift\", the stance placed where it is planned to be; \"contact\", what the last "
                     "move touched",
                 .words = probe_kind_words,
                 .get = kind_of_probe<D>},
        shaped<D, box_size_of<D>, box_of_size<D>>(
            Field<P>{.key = "shape.box.size",
                     .type = vector,
                     .unit = Unit::length,
                     .meaning = "Cast and zone: its shape, a box around `from`: forward, up and (3D) right",
                     .limits = above_0,
                     .kinds = casts | zones}),
        shaped<D, radius_of<D, ShapeForm::ball>, ball_of_radius<D>>(
            Field<P>{.key = "shape.ball.radius",
                     .unit = Unit::length,
                     .meaning = "… or a ball around `from`",
                     .limits = above_0,
                     .kinds = casts | zones}),
        shaped<D, radius_of<D, ShapeForm::capsule>, capsule_of_radius<D>>(
            Field<P>{.key = "shape.capsule.radius",
                     .unit = Unit::length,
                     .meaning = "… or an upright capsule around `from`",
                     .limits = above_0,
                     .kinds = casts | zones}),
        shaped<D, capsule_height_of<D>, capsule_of_height<D>>(
            Field<P>{.key = "shape.capsule.height",
                     .unit = Unit::length,
                     .meaning = "Its overall height, at least twice the radius",
                     .limits = above_0,
                     .kinds = casts | zones}),
        shaped<D, corners_of<D>>(Field<P>{.key = "shape.hull.points",
                                          .type = points,
                                          .unit = Unit::length,
                                          .meaning = "… or convex corners around `from`",
                                          .kinds = casts | zones}),
        shaped<D, radius_of<D, ShapeForm::hull>, hull_of_radius<D>>(
            Field<P>{.key = "shape.hull.radius",
                     .unit = Unit::length,
                     .standard = "0.0",
                     .meaning = "Rounds the hull: it grows by this much",
                     .limits = from_0,
                     .kinds = casts | zones}),
        started_from<D>(
            Field<P>{.key = "from",
                     .type = vector,
                     .unit = Unit::length,
                     .standard = "[0.0, 0.0] or [0.0, 0.0, 0.0]",
                     .meaning = "Where the probe starts, from the anchor: forward, up and (3D) right",
                     .kinds = rays_and_casts | zones}),
        held_at<&P::follows>(Field<P>{
            .key = "follows",
            .type = text,
            .standard = "none",
            .meaning = "A ray or cast declared before, of one line: `from` is moved along that line as far "
                       "as it got, so that this one starts beyond what that one hit. Where that one is off, "
                       "this one is not read, and off",
            .kinds = rays_and_casts | zones | shifts,
            .names = NamesOf::probes}),
        Field<P>{.key = "along",
                 .type = direction,
                 .standard = "\"down\", of a shift \"forward\"",
                 .meaning =
                     "\"down\", \"up\", \"forward\", \"backward\", (3D) \"left\", \"right\", \"drive\" "
                     "(where the player wants to go), \"velocity\", or a vector in body coordinates. Of a "
                     "zone: the end that cures move",
                 .kinds = rays_and_casts | zones | shifts,
                 .get = along_value<D>,
                 .set = set_along<D>},
        reach_in<D, ReachForm::plain>(Field<P>{
            .key = "reach",
            .type = number_or_table,
            .unit = Unit::length,
            .meaning = "How far it goes, inclusive. Of a shift: how far the stance is moved, 0 or more",
            .limits = above_0,
            .kinds = rays_and_casts}),
        reach_in<D, ReachForm::plain>(Field<P>{.key = "reach",
                                               .type = number_or_table,
                                               .unit = Unit::length,
                                               .meaning = "How far the stance is moved",
                                               .limits = from_0,
                                               .kinds = shifts}),
        grounded_reach<D>(Field<P>{.key = "reach.grounded",
                                   .unit = Unit::length,
                                   .meaning = "… while the rig remembers ground",
                                   .limits = above_0,
                                   .kinds = rays_and_casts | shifts}),
        reach_in<D, ReachForm::by_state>(Field<P>{.key = "reach.airborne",
                                                  .unit = Unit::length,
                                                  .meaning = "… while it does not",
                                                  .limits = above_0,
                                                  .kinds = rays_and_casts | shifts}),
        reach_in<D, ReachForm::by_speed>(Field<P>{.key = "reach.base",
                                                  .unit = Unit::length,
                                                  .meaning = "… at rest",
                                                  .limits = from_0,
                                                  .kinds = rays_and_casts | shifts}),
        reach_by_speed<D>(Field<P>{.key = "reach.per_speed",
                                   .unit = Unit::seconds,
                                   .meaning = "… and what each unit of speed adds",
                                   .limits = above_0,
                                   .kinds = rays_and_casts | shifts}),
        held_at<&P::sees>(Field<P>{
            .key = "sees", .type = names, .meaning = "The layers it can hit", .names = NamesOf::layers}),
        angles_of_line<D, &Line::accept_least_degrees, &Line::accept_most_degrees>(
            Field<P>{.key = "accept.angle",
                     .meaning = "The hits that count, by the angle of their normal from up; both ends "
                                "inclusive, the lower first"}),
        angles_of_line<D, &Line::accept_least_incidence_degrees, &Line::accept_most_incidence_degrees>(
            Field<P>{.key = "accept.incidence",
                     .meaning = "… and by the angle of their normal from the way back along the line: 0 is "
                                "met squarely, 90 only brushed"}),
        of_kind<Line, &Line::take>(Field<P>{
            .key = "take",
            .type = word,
            .standard = "\"first\"",
            .meaning = "\"first\": only the first hit is considered; \"all\": any hit that is accepted",
            .kinds = rays_and_casts,
            .words = take_words}),
        of_kind<Line, &Line::if_inside>(Field<P>{
            .key = "if_inside",
            .type = word,
            .standard = "\"report\"",
            .meaning = "A solid it starts in: \"report\" a hit at distance 0; \"ignore\" that solid; "
                       "\"against\", a hit only where the probe runs further into it",
            .kinds = rays_and_casts,
            .words = if_inside_words}),
        spread_by<D, SpreadKind::row, &Spread::count>(
            Field<P>{.key = "spread.row.count",
                     .type = integer,
                     .meaning = "Several lines in one: so many starts side by side",
                     .limits = {2.0, most_counted}}),
        spread_by<D, SpreadKind::row, &Spread::width>(Field<P>{.key = "spread.row.width",
                                                               .unit = Unit::length,
                                                               .meaning = "From the first to the last",
                                                               .limits = above_0}),
        spread_axis<D, SpreadKind::row>(
            Field<P>{.key = "spread.row.axis",
                     .type = word,
                     .standard = "forward, of probes along it up or (3D) right",
                     .meaning = "\"forward\", \"up\" or (3D) \"right\": what they stand along",
                     .words = std::span(spread_axis_words).first(D == 2 ? 2 : 3)}),
        spread_by<D, SpreadKind::fan, &Spread::count>(
            Field<P>{.key = "spread.fan.count",
                     .type = integer,
                     .meaning = "So many directions from one start, around `along`",
                     .limits = {2.0, most_counted}}),
        spread_by<D, SpreadKind::fan, &Spread::degrees>(Field<P>{.key = "spread.fan.degrees",
                                                                 .unit = Unit::degrees,
                                                                 .meaning = "From the first to the last",
                                                                 .limits = {0.0, 360.0, true}}),
        spread_axis<D, SpreadKind::fan>(
            Field<P>{.key = "spread.fan.axis",
                     .type = word,
                     .standard = "up, of probes along up right",
                     .meaning = "3D: \"forward\", \"up\" or \"right\": what they turn around",
                     .words = std::span(spread_axis_words).first(D == 2 ? 2 : 3)}),
        spread_by<D, SpreadKind::ring, &Spread::count>(
            Field<P>{.key = "spread.ring.count",
                     .type = integer,
                     .meaning = "3D: so many starts around a circle, across `along`",
                     .limits = {2.0, most_counted}}),
        spread_by<D, SpreadKind::ring, &Spread::radius>(Field<P>{.key = "spread.ring.radius",
                                                                 .unit = Unit::length,
                                                                 .meaning = "Of the circle",
                                                                 .limits = above_0}),
        spread_by<D, SpreadKind::grid, &Spread::counts>(
            Field<P>{.key = "spread.grid.counts",
                     .type = pair,
                     .unit = Unit::count,
                     .meaning = "3D: rows and columns of starts, across `along`",
                     .limits = {1.0, most_counted}}),
        spread_by<D, SpreadKind::grid, &Spread::size>(Field<P>{.key = "spread.grid.size",
                                                               .type = pair,
                                                               .unit = Unit::length,
                                                               .meaning = "Of the grid",
                                                               .limits = from_0}),
        Field<P>{.key = "spread.least",
                 .type = integer,
                 .standard = "1",
                 .meaning = "How many of the lines must be on",
                 .limits = {1.0, most_counted},
                 .kinds = rays_and_casts,
                 .get = least_of<D>,
                 .set = of_kind<Line, &Line::spread, &Spread::least>(Field<P>{}).set},
        told_of_one_ways<D>(Field<P>{.key = "one_way",
                                     .type = word,
                                     .standard = "\"as_body\"",
                                     .meaning = "One-way solids: met \"as_body\", from their solid side only "
                                                "and not from within, deeper than `touch`; "
                                                "\"always\"; \"never\"",
                                     .kinds = rays_and_casts | zones | shifts,
                                     .words = one_way_words}),
        of_kind<Line, &Line::ignores_body>(
            Field<P>{.key = "ignores_body",
                     .type = flag,
                     .standard = "true",
                     .meaning = "Whether it passes over the body itself where it sees the body's own layer",
                     .kinds = rays_and_casts}),
        of_kind<Zone, &Zone::keeps>(
            Field<P>{.key = "keeps",
                     .type = word,
                     .standard = "\"set\"",
                     .meaning = "Zone, how the game remembers: \"set\", on while anything is inside; "
                                "\"last_event\", one flag that each enter sets and each leave clears; "
                                "\"until_used\", set by any enter, cleared by `used_by`",
                     .kinds = zones,
                     .words = keeps_words}),
        Field<P>{.key = "used_by",
                 .type = text,
                 .standard = "\"jump\"",
                 .meaning = "The event that clears it",
                 .kinds = zones,
                 .get = used_by_of<D>,
                 .set = set_used_by<D>},
        of_kind<Shift, &Shift::axes>(Field<P>{
            .key = "axes",
            .type = word,
            .standard = "\"both\"",
            .meaning = "Shift: which part of the way it makes: \"both\", \"across_up\" or \"along_up\"",
            .kinds = shifts,
            .words = shift_axes_words}),
        of_kind<Shift, &Shift::inset>(
            Field<P>{.key = "inset",
                     .unit = Unit::length,
                     .standard = "0",
                     .meaning = "Shift: the stance is smaller by this much on every side",
                     .limits = from_0,
                     .kinds = shifts}),
        of_kind<ContactProbe, &ContactProbe::side>(Field<P>{.key = "side",
                                                            .type = word,
                                                            .standard = "required for contact",
                                                            .meaning = "\"below\", \"above\" or \"beside\"",
                                                            .kinds = contacts,
                                                            .words = side_words}),
        of_kind<ContactProbe, &ContactProbe::match>(Field<P>{
            .key = "match",
            .type = word,
            .standard = "\"includes\"",
            .meaning = "Contact: \"includes\", some contact is on that side; \"only\", and none on another",
            .kinds = contacts,
            .words = match_words}),
        of_kind<ContactProbe, &ContactProbe::within_degrees>(Field<P>{
            .key = "within",
            .unit = Unit::degrees,
            .standard = "45.0",
            .meaning = "Contact: how far from straight up the normal is below, from straight down above",
            .limits = {0.0, 90.0, true},
            .kinds = contacts}),
        held_at<&P::reads>(Field<P>{
            .key = "reads",
            .type = word,
            .standard = "as the rig does",
            .meaning = "\"after_move\" or \"before_move\": a scout may look ahead before the move while the "
                       "sole is read after it; `blocked` is then asked where and when it was read. Not for "
                       "contact",
            .kinds = rays_and_casts | zones | shifts,
            .words = reads_words}),
        of_kind<Line, &Line::faces>(
            Field<P>{.key = "faces",
                     .type = word,
                     .standard = "\"both\"",
                     .meaning = "Ray and cast: \"front\" passes over the back faces of meshes and polylines",
                     .kinds = rays_and_casts,
                     .words = faces_words}),
        held_at<&P::stances>(Field<P>{.key = "stances",
                                      .type = names,
                                      .standard = "all stances",
                                      .meaning = "The stances in which it is mounted",
                                      .names = NamesOf::stances}),
    };
    return fields;
}

template std::span<const Field<Probe<2>>> probe_fields<2>();
template std::span<const Field<Probe<3>>> probe_fields<3>();

}  // namespace hollow_probe

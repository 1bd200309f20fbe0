// Ways to sense what touches the body, and what would stop it or another stance.
#include "study/family_maker.hpp"

namespace hollow_probe {
namespace {

template <int D>
void add_along_up(FamilyMaker<D>& maker, bool down) {
    const Intent intent = maker.intent;
    const Vec<D> up = Vec<D>::unit(1);
    const Vec<D> along = down ? -up : up;
    const double least = down ? 0.0 : 180.0 - intent.ceiling_within_degrees;
    const double most = down ? intent.steepest_footing_degrees : 180.0;
    const std::string part = down ? "soles" : "crown";
    const std::string way = down ? "down from the knee" : "up from the neck";
    const auto ray = [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
        const double inside = 0.25 * body.height;
        const double at = down ? inside : body.height - inside;
        return maker.line(at * up, along, inside + intent.touch, least, most);
    };
    maker.add("ray", "a ray straight " + way + ", to touch beyond the body", {{part, PartRole::any, ray}});
    maker.add("three rays", "three rays " + way + ", as wide as the body",
              {{part, PartRole::any, [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                    Probe<D> probe = *ray(body);
                    probe.line().spread = {SpreadKind::row, 3, 2.0 * body.half};
                    return probe;
                }}});
    maker.add("ball", "a ball as round as the body's end, swept by touch",
              {{part, PartRole::any, [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                    if (body.round <= 0.0) return std::nullopt;
                    const double at = down ? body.round : body.height - body.round;
                    return maker.swept(maker.line(at * up, along, intent.touch, least, most),
                                       RoundedHull<D>::ball(Vec<D>::zero(), body.round));
                }}});
    maker.add("body", "the body itself, swept by touch",
              {{part, PartRole::any, [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                    return maker.swept(maker.line(body.middle, along, intent.touch, least, most),
                                       body.shape());
                }}});
}

}  // namespace

template <int D>
void add_ground_families(FamilyMaker<D>& maker) {
    add_along_up<D>(maker, true);
}

template <int D>
void add_ceiling_families(FamilyMaker<D>& maker) {
    add_along_up<D>(maker, false);
}

template <int D>
void add_headroom_families(FamilyMaker<D>& maker) {
    const double touch = maker.intent.touch;
    const Fitted<D> upright(maker.tallest());
    const double height = upright.height;
    maker.add("ray", "a ray up to the height of the stance that is to fit",
              {{"room above", PartRole::none, [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                    return maker.line(0.5 * body.height * Vec<D>::unit(1), Vec<D>::unit(1),
                                      height - touch - 0.5 * body.height, 0.0, 180.0);
                }}});
    maker.add("zone", "the stance that is to fit, smaller by touch, as a zone",
              {{"room above", PartRole::none, [&maker, touch](const Fitted<D>&) -> std::optional<Probe<D>> {
                    const Fitted<D> body(maker.tallest());
                    return Probe<D>{.of_kind = ZoneProbe<D>{body.smaller(touch), body.middle}};
                }}});
}

template <int D>
void add_blocked_families(FamilyMaker<D>& maker) {
    const Intent intent = maker.intent;
    // Whatever the move runs against stops it, footing too; what it runs along does not.
    constexpr double flush = 0.1;  // degrees
    const double speed = 2.5 * maker.tallest().shape.bounds().high[1];
    const auto planned = [=](Probe<D> probe) {
        *reach_of(probe) = intent.ahead_move;
        if (intent.ahead_move == 0.0) *reach_per_speed_of(probe) = intent.ahead_move_seconds;
        return probe;
    };
    maker.add("ray", "a ray ahead from the middle, to where the move ends",
              {{"front", PartRole::any, [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                    return maker.line(body.middle, Vec<D>::unit(0), body.half + intent.planned_move(speed),
                                      0.0, 180.0);
                }}});
    maker.add("body", "the body itself, swept by the planned move",
              {{"front", PartRole::any, [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                    return planned(maker.swept(maker.line(body.middle, Vec<D>::unit(0), 1.0, flush, 180.0),
                                               body.shape()));
                }}});
    maker.add("shift", "the body placed where the planned move ends",
              {{"front", PartRole::any, [=](const Fitted<D>&) -> std::optional<Probe<D>> {
                    return planned({.of_kind = ShiftProbe<D>{.inset = intent.touch}});
                }}});
}

template void add_ground_families<2>(FamilyMaker<2>&);
template void add_ground_families<3>(FamilyMaker<3>&);
template void add_ceiling_families<2>(FamilyMaker<2>&);
template void add_ceiling_families<3>(FamilyMaker<3>&);
template void add_headroom_families<2>(FamilyMaker<2>&);
template void add_headroom_families<3>(FamilyMaker<3>&);
template void add_blocked_families<2>(FamilyMaker<2>&);
template void add_blocked_families<3>(FamilyMaker<3>&);

}  // namespace hollow_probe

// Ways to sense where the ground ends.
#include "study/family_maker.hpp"

namespace hollow_probe {

template <int D>
void add_drop_families(FamilyMaker<D>& maker) {
    using Part = FamilyPart<D>;
    const Intent intent = maker.intent;
    const double above = intent.tallest_step;
    const double steepest = intent.steepest_footing_degrees;
    const auto down = [=](double forward) {
        return maker.line(above * Vec<D>::unit(1) + forward * Vec<D>::unit(0), -Vec<D>::unit(1),
                          above + intent.deepest_drop, 0.0, steepest);
    };
    const Part toes = {"toes", PartRole::none,
                       [=](const Fitted<D>&) -> std::optional<Probe<D>> { return down(intent.ahead_drop); }};
    maker.add("ray", "a ray down where the edge counts as near, on ground", {toes});
    maker.add("ball", "a ball down where the edge counts as near, on ground",
              {{"toes", PartRole::none, [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                    const double radius = body.round > 0.0 ? body.round : body.half;
                    return maker.swept(down(intent.ahead_drop + 0.7 * radius),
                                       RoundedHull<D>::ball(Vec<D>::zero(), 0.5 * radius));
                }}});
    const auto way = [=](PartRole role, bool whole = true) {
        return Part{"way ahead", role, [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                        const double leaves = body.round > 0.0 ? body.round : body.half;
                        return maker.swept(
                            maker.line(body.middle + above * Vec<D>::unit(1), Vec<D>::unit(0),
                                       intent.ahead_drop + (whole ? leaves : 0.0), steepest, 180.0),
                            body.shape());
                    }};
    };
    maker.add("ray and way",
              "a ray down where the edge counts as near, on ground, where the body, lifted, can go on",
              {toes, way(PartRole::none, false)});
    // The body leaves an edge when nothing but what is steeper than footing touches it any more.
    const auto leaves = [=](const Fitted<D>& body) {
        return intent.ahead_drop + (body.round > 0.0 ? body.round * std::sin(radians(steepest)) : body.half);
    };
    const auto lowered = [=](const Fitted<D>& body, double forward) {
        Probe<D> probe = maker.swept(down(forward), body.shape());
        probe.line().from += body.middle;
        probe.line().if_inside = IfInside::ignore;
        return probe;
    };
    const Part body_there = {"toes", PartRole::none, [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                                 return lowered(body, leaves(body));
                             }};
    maker.add("body and way",
              "the body lowered where it leaves an edge that counts as near, on ground, where the body, "
              "lifted, can go on",
              {body_there, way(PartRole::none)});
    const auto bodies = [=](PartRole role) {
        return Part{"toes", role, [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                        // Near enough to each other that what lies between is strode over.
                        const double width = leaves(body);
                        const int count =
                            std::clamp(static_cast<int>(std::ceil(4.0 * width / body.half)), 4, 16);
                        Probe<D> probe = lowered(body, 0.5 * width);
                        probe.line().spread = {SpreadKind::row, count, width};
                        probe.line().spread.axis = SpreadAxis::forward;
                        probe.line().spread.least = count;
                        return probe;
                    }};
    };
    maker.add(
        "bodies and way",
        "the body lowered at places up to where it leaves an edge that counts as near, on ground, where "
        "the body, lifted, can go on",
        {bodies(PartRole::none), way(PartRole::none)});
    // The body let down where a wall stops it.
    const Part at_wall = {
        "toes at a wall", PartRole::all,
        [=](const Fitted<D>& body) -> std::optional<Probe<D>> { return lowered(body, 0.0); }, "way ahead"};
    maker.add("bodies, up to a wall",
              "the body lowered at places up to where it leaves an edge that counts as near, or where a wall "
              "stops it, on ground",
              {},
              {{"footing ahead", {bodies(PartRole::all), way(PartRole::none)}},
               {"footing up to a wall", {way(PartRole::all), at_wall}}});
}

template void add_drop_families<2>(FamilyMaker<2>&);
template void add_drop_families<3>(FamilyMaker<3>&);

}  // namespace hollow_probe

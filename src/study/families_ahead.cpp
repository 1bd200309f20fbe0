// Ways to sense walls, steps and ledges: the body swept ahead, and what follows where it was stopped.
#include <numbers>

#include "hollow_probe/truth/wall.hpp"
#include "study/family_maker.hpp"

namespace hollow_probe {
namespace {

/// The parts that several claims share.
template <int D>
class PartsAhead {
  public:
    using Part = FamilyPart<D>;
    using MaybeProbe = std::optional<Probe<D>>;

    explicit PartsAhead(FamilyMaker<D>& maker)
        : maker_(maker),
          intent_(maker.intent),
          steep_(intent_.steepest_footing_degrees),
          hanging_(180.0 - intent_.ceiling_within_degrees) {}

    [[nodiscard]] static Vec<D> up() { return Vec<D>::unit(1); }
    [[nodiscard]] static Vec<D> ahead() { return Vec<D>::unit(0); }

    /// The body swept ahead, stopped by what is steeper than footing.
    [[nodiscard]] Part riser() const {
        return {"riser", PartRole::all, [*this](const Fitted<D>& body) -> MaybeProbe {
                    return maker_.swept(maker_.line(body.middle, ahead(), intent_.ahead_step, steep_, 180.0),
                                        body.shape());
                }};
    }
    /// … by what may be a wall.
    [[nodiscard]] Part chest() const {
        return {"chest", PartRole::all, [*this](const Fitted<D>& body) -> MaybeProbe {
                    return maker_.swept(line_to_wall(body, intent_.ahead_wall), body.shape());
                }};
    }
    /// … before which nothing else is met that rises more than touch: the body without its lowest bit.
    [[nodiscard]] Part face() const {
        return {"face", PartRole::all, [*this](const Fitted<D>& body) -> MaybeProbe {
                    const auto [shape, middle] = off_floor(body);
                    Probe<D> line = line_to_wall(body, intent_.ahead_ledge);
                    line.line().from = middle;
                    return maker_.swept_to_first(line, shape);
                }};
    }

    /// Whether what stopped `leader` rises more than touch: what rises less stops nobody. Round ends meet
    /// that as footing.
    [[nodiscard]] Part lip(const std::string& leader) const {
        return {"lip at " + leader, PartRole::all,
                [*this](const Fitted<D>& body) -> MaybeProbe {
                    return body.is_box ? part_above(body, intent_.touch)
                                       : maker_.swept(maker_.line(body.middle, ahead(), intent_.touch, steep_,
                                                                  hanging_),
                                                      body.shape());
                },
                leader};
    }

    /// What tells that what stopped `leader` can be stepped on: it rises as far as a step must and no
    /// farther; the body fits above it, gets on past it, and comes down on footing.
    [[nodiscard]] FamilyParts<D> stepping(const std::string& leader) const {
        const double lift = intent_.tallest_step;
        const std::string there = " at " + leader;
        return {
            {"kerb" + there, PartRole::all,
             [*this](const Fitted<D>& body) -> MaybeProbe { return bar_at(intent_.lowest_step, body); },
             leader},
            {"too tall" + there, PartRole::none,
             [*this](const Fitted<D>& body) -> MaybeProbe { return bar_at(intent_.tallest_step, body); },
             leader},
            {"room over" + there, PartRole::none,
             [*this, lift](const Fitted<D>& body) -> MaybeProbe {
                 return Probe<D>{.of_kind =
                                     ZoneProbe<D>{body.smaller(intent_.touch), body.middle + lift * up()}};
             },
             leader},
            {"way over" + there, PartRole::none,
             [*this, lift](const Fitted<D>& body) -> MaybeProbe {
                 const auto [shape, middle] = above(body, intent_.touch);
                 return maker_.swept(
                     maker_.line(middle + lift * up(), ahead(), maker_.tread(body), steep_, 180.0), shape);
             },
             leader},
            {"landing" + there, PartRole::all,
             [*this, lift](const Fitted<D>& body) -> MaybeProbe {
                 Probe<D> probe = maker_.swept_to_first(
                     maker_.line(body.middle + lift * up() + maker_.tread(body) * ahead(), -up(),
                                 lift + intent_.touch, 0.0, steep_),
                     body.shape());
                 probe.line().if_inside = IfInside::report;
                 return probe;
             },
             leader},
        };
    }

    /// The stance that is to stand on a ledge, its back past the face by its tread, let down from as high as
    /// a ledge may be.
    /// `sunk` is how much deeper it may come to rest.
    [[nodiscard]] FamilyParts<D> climbing(const std::string& leader, double sunk = 0.0) const {
        return {
            {"top", PartRole::all,
             [*this, sunk](const Fitted<D>& body) -> MaybeProbe {
                 const Fitted<D> climber(maker_.climber());
                 const double past = body.half + maker_.tread(climber) + climber.half;
                 const auto [low, high] = intent_.ledge_between;
                 Probe<D> probe =
                     maker_.swept_to_first(maker_.line(climber.middle + high * up() + past * ahead(), -up(),
                                                       high - low + sunk, 0.0, steep_),
                                           climber.shape());
                 probe.line().if_inside = IfInside::ignore;
                 return probe;
             },
             leader},
            {"room there", PartRole::none,
             [*this](const Fitted<D>& body) -> MaybeProbe {
                 const Fitted<D> climber(maker_.climber());
                 const double past = body.half + maker_.tread(climber) + climber.half;
                 const Vec<D> from = climber.middle + intent_.ledge_between[1] * up() + past * ahead();
                 return Probe<D>{.of_kind = ZoneProbe<D>{climber.smaller(intent_.touch), from}};
             },
             "top"},
        };
    }

  private:
    /// A line ahead that hits no ceiling, and nothing that is just brushed past.
    [[nodiscard]] Probe<D> line_to_wall(const Fitted<D>& body, double reach) const {
        Probe<D> line = maker_.line(body.middle, ahead(), reach, steep_, hanging_);
        const double most = degrees(std::acos(least_facing_of_wall));
        // In 2D the angle from up says as much.
        if (D == 3 || steep_ < 90.0 - most || hanging_ > 90.0 + most)
            line.line().accept_most_incidence_degrees = most;
        return line;
    }

    /// The body from a height on, if it is a box: its shape, and where its middle then is.
    [[nodiscard]] std::pair<RoundedHull<D>, Vec<D>> above(const Fitted<D>& body, double low) const {
        if (!body.is_box || low >= 0.9 * body.height) return {body.shape(), body.middle};
        Vec<D> size = body.stance.shape.bounds().size();
        size[1] -= low;
        return {RoundedHull<D>::box(Vec<D>::zero(), size), body.middle + 0.5 * low * up()};
    }

    /// The body from touch on, as far as its shape can be cut; else it is lifted by as much.
    [[nodiscard]] std::pair<RoundedHull<D>, Vec<D>> off_floor(const Fitted<D>& body) const {
        const double touch = intent_.touch;
        if (body.is_box) return above(body, touch);
        const double between_ends = body.height - 2.0 * body.round;
        if (body.round == 0.0 || between_ends <= touch) return {body.shape(), body.middle + touch * up()};
        const Vec<D> end = 0.5 * (between_ends - touch) * up();
        return {RoundedHull<D>::capsule(-end, end, body.round), body.middle + 0.5 * touch * up()};
    }

    /// A box from a height on, swept ahead by touch: on for whatever comes up to there, a body sunk into it
    /// or not.
    [[nodiscard]] Probe<D> part_above(const Fitted<D>& body, double low) const {
        const auto [shape, middle] = above(body, low);
        Probe<D> probe = maker_.swept(maker_.line(middle, ahead(), intent_.touch, 0.0, hanging_), shape);
        probe.line().if_inside = IfInside::report;
        return probe;
    }

    /// A thin bar as wide as the body, at a height above the anchor: a ray in 2D. On for what comes up to
    /// there before the body. Beneath a round body a slope is met before it has come up that far.
    [[nodiscard]] Probe<D> bar_at(double height, const Fitted<D>& body) const {
        const double reach = std::max(body.half, std::numbers::sqrt2 * body.round) + intent_.touch;
        Probe<D> probe = maker_.line(height * up(), ahead(), reach, 0.0, 180.0);
        if constexpr (D == 3) {
            const double thickness = 0.1 * intent_.touch;
            Vec<D> size = Vec<D>::constant(thickness);
            size[2] = body.stance.shape.bounds().size()[2];
            probe.line().from[1] += 0.5 * thickness;
            probe.line().shape = RoundedHull<D>::box(Vec<D>::zero(), size);
        }
        return probe;
    }

    FamilyMaker<D>& maker_;
    Intent intent_;
    double steep_;
    double hanging_;
};

}  // namespace

template <int D>
void add_wall_families(FamilyMaker<D>& maker) {
    const Intent intent = maker.intent;
    const Vec<D> ahead = Vec<D>::unit(0);
    const double least = intent.steepest_footing_degrees;
    const double most = 180.0 - intent.ceiling_within_degrees;
    const auto ray = [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
        return maker.line(body.middle, ahead, body.half + intent.ahead_wall, least, most);
    };
    maker.add("ray", "a ray ahead from the middle", {{"chest", PartRole::any, ray}});
    maker.add("three rays", "three rays ahead, one above the other",
              {{"chest", PartRole::any, [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                    Probe<D> probe = *ray(body);
                    probe.line().spread = {SpreadKind::row, 3, 0.8 * body.height};
                    probe.line().spread.axis = SpreadAxis::up;
                    return probe;
                }}});
    maker.add("upper body", "the body from the tallest step up, swept ahead",
              {{"chest", PartRole::any, [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                    const double low = std::max(intent.tallest_step, intent.touch);
                    const double height = body.height - low;
                    if (height < std::max(0.1 * body.height, 2.0 * body.round)) return std::nullopt;
                    Vec<D> size = body.stance.shape.bounds().size();
                    size[1] = height;
                    const Vec<D> end = (0.5 * height - body.round) * Vec<D>::unit(1);
                    return maker.swept(maker.line((low + 0.5 * height) * Vec<D>::unit(1), ahead,
                                                  intent.ahead_wall, least, most),
                                       body.round > 0.0 ? RoundedHull<D>::capsule(-end, end, body.round)
                                                        : RoundedHull<D>::box(Vec<D>::zero(), size));
                }}});
    const PartsAhead<D> parts(maker);
    const FamilyPart<D> chest = parts.chest();
    maker.add("body", "the body itself, swept ahead", {chest});
    maker.add("body, no step",
              "the body itself, swept ahead, where it could not be lifted on to what stops it",
              {chest, parts.lip("chest")}, {{"can be stepped on", parts.stepping("chest")}});
}

template <int D>
void add_step_families(FamilyMaker<D>& maker) {
    const Intent intent = maker.intent;
    const Vec<D> up = Vec<D>::unit(1);
    const Vec<D> ahead = Vec<D>::unit(0);
    const double least = intent.steepest_footing_degrees;
    const double most = 180.0 - intent.ceiling_within_degrees;
    maker.add("two rays", "a ray ahead at the shin that hits, and one above the tallest step that does not",
              {{"shin", PartRole::any,
                [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                    return maker.line(0.5 * (intent.lowest_step + intent.tallest_step) * up, ahead,
                                      body.half + intent.ahead_step, least, most);
                }},
               {"knee", PartRole::none, [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                    return maker.line((intent.tallest_step + intent.touch) * up, ahead,
                                      body.half + intent.ahead_step + body.half, 0.0, 180.0);
                }}});
    const PartsAhead<D> parts(maker);
    const FamilyPart<D> riser = parts.riser();
    FamilyParts<D> all = parts.stepping("riser");
    maker.add("riser and landing", "the body swept ahead, and lowered on to what is beyond",
              {riser, all.back()});
    all.insert(all.begin(), riser);
    maker.add("riser, way and landing",
              "the body swept ahead; where it is stopped, lifted past what stops it, if that rises as a step "
              "may, and lowered on to what is beyond",
              all);
}

template <int D>
void add_ledge_families(FamilyMaker<D>& maker) {
    const Intent intent = maker.intent;
    const Vec<D> up = Vec<D>::unit(1);
    const double least = intent.steepest_footing_degrees;
    const PartsAhead<D> parts(maker);
    const FamilyPart<D> face = parts.face();
    const FamilyPart<D> top_ray = {"top", PartRole::all,
                                   [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                                       const auto [low, high] = intent.ledge_between;
                                       return maker.line(
                                           (high + intent.touch) * up + 1.1 * body.half * Vec<D>::unit(0),
                                           -up, high - low + 2.0 * intent.touch, 0.0, least);
                                   },
                                   "face"};
    maker.add("face and a ray", "the body swept ahead, and where it is stopped a ray down beyond the face",
              {face, top_ray});
    const FamilyParts<D> climbing = parts.climbing("face");
    // Right behind the face, on the body's middle line: what is there is no lower than that.
    const auto rim_above = [&](double lowest) {
        return FamilyPart<D>{"rim", PartRole::all,
                             [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                                 const double high = intent.ledge_between[1];
                                 Probe<D> probe = maker.line(
                                     high * up + (1.1 * body.half + intent.touch) * Vec<D>::unit(0), -up,
                                     high - lowest, 0.0, least);
                                 probe.line().if_inside = IfInside::ignore;
                                 return probe;
                             },
                             "face"};
    };
    // What is no higher than a step is no face.
    const FamilyPart<D> rim = rim_above(intent.tallest_step);
    maker.add(
        "face and climber",
        "the body swept ahead, and beyond where it is stopped the stance that is to stand there, lowered",
        {face, climbing.front()});
    maker.add("face, climber and room",
              "the body swept ahead, and beyond where it is stopped the stance that is to stand there, "
              "lowered, where it then has room",
              {face, climbing.front(), climbing.back()});
    maker.add("face, rim, climber and room",
              "the body swept ahead, and beyond where it is stopped a ray down right behind the face and the "
              "stance that is to stand there, lowered, where it then has room",
              {face, rim, climbing.front(), climbing.back()});
    // A round body's foot hangs over the edge it rests on: how high that is the ray tells, not the foot.
    const FamilyParts<D> hanging = parts.climbing("face", Fitted<D>(maker.climber()).round);
    maker.add("face, edge, climber and room",
              "the body swept ahead, and beyond where it is stopped a ray down that tells the height of the "
              "edge, and the stance that is to stand there, lowered, where it then has room",
              {face, rim_above(intent.ledge_between[0]), hanging.front(), hanging.back()});
}

template void add_wall_families<2>(FamilyMaker<2>&);
template void add_wall_families<3>(FamilyMaker<3>&);
template void add_step_families<2>(FamilyMaker<2>&);
template void add_step_families<3>(FamilyMaker<3>&);
template void add_ledge_families<2>(FamilyMaker<2>&);
template void add_ledge_families<3>(FamilyMaker<3>&);

}  // namespace hollow_probe

#include "study/families.hpp"

#include <algorithm>
#include <cmath>

namespace hollow_probe {
namespace {

/// A stance as probes are fitted to it.
template <int D>
struct Fitted {
    explicit Fitted(const Stance<D>& of) : stance(of) {
        const Bounds<D> bounds = of.shape.bounds();
        height = bounds.high[1];
        for (int axis = 0; axis < D; ++axis) {
            if (axis != 1) half = std::max({half, bounds.high[axis], -bounds.low[axis]});
        }
        middle = 0.5 * height * Vec<D>::Unit(1);
        round = of.shape.points().size() <= 2 ? of.shape.radius() : 0.0;
    }

    /// The stance around its middle, as a probe's shape.
    [[nodiscard]] RoundedHull<D> shape() const { return stance.shape.placed(Mat<D>::Identity(), -middle); }

    const Stance<D>& stance;
    double height = 0.0;
    double half = 0.0;   // its width to any side, at most
    double round = 0.0;  // radius of its ends; 0: it has none
    Vec<D> middle;
};

template <int D>
class Families {
  public:
    Families(const Rig<D>& bare, Claim claim, std::string standing)
        : bare_(bare), claim_(claim), standing_(std::move(standing)) {}

    std::vector<TriedFamily<D>> all() {
        switch (claim_) {
            case Claim::ground:
            case Claim::ceiling:
                along_up(claim_ == Claim::ground);
                break;
            case Claim::wall:
                walls();
                break;
            case Claim::blocked:
                blocked();
                break;
            case Claim::drop:
                drops();
                break;
            case Claim::headroom:
                headroom();
                break;
            case Claim::step:
                steps();
                break;
            case Claim::ledge:
                ledges();
                break;
        }
        return std::move(all_);
    }

  private:
    using Make = std::function<std::optional<Probe<D>>(const Fitted<D>&)>;

    /// How the signal takes a probe.
    enum class Role { any, all, none };
    struct Part {
        std::string name;
        Role role;
        Make make;
    };

    /// The parts in each stance; none of it where some stance can have no such probe.
    void add(const std::string& name, const std::string& what, const std::vector<Part>& parts) {
        TriedFamily<D> family;
        family.name = name;
        family.what = what;
        Signal signal;
        signal.name = name_of(std::optional(claim_));
        signal.claims = claim_;
        const bool several = bare_.body.stances.size() > 1;
        for (const Stance<D>& stance : bare_.body.stances) {
            for (const Part& part : parts) {
                std::optional<Probe<D>> probe = part.make(Fitted<D>(stance));
                if (!probe) return;
                probe->name = part.name + (several ? ", " + stance.name : "");
                if (several) probe->stances = {stance.name};
                probe->sees = bare_.body.meets;
                if (probe->is_line()) probe->line().faces = bare_.body.faces;
                // Probes of other stances are not mounted: they say no to `all`.
                auto& members = part.role == Role::none              ? signal.members.none
                                : part.role == Role::all && !several ? signal.members.all
                                                                     : signal.members.any;
                if (part.role == Role::all && several) {
                    all_of(part.name, family, signal).members.any.emplace_back(probe->name);
                } else {
                    members.emplace_back(probe->name);
                }
                family.probes.push_back(std::move(*probe));
            }
        }
        if (claim_ == Claim::drop) signal.members.all.emplace_back(standing_);
        if (claim_ == Claim::headroom) signal.stance = tallest().name;
        if (claim_ == Claim::ledge) signal.stance = climber().name;
        family.signals.push_back(signal);
        all_.push_back(std::move(family));
    }

    void add(const std::string& name, const std::string& what, const std::string& part, const Make& make,
             bool on_without_hit = false) {
        add(name, what, std::vector<Part>{{part, on_without_hit ? Role::none : Role::any, make}});
    }

    /// A helper that is on if a part is on in the stance there is; the signal asks for it.
    static Signal& all_of(const std::string& part, TriedFamily<D>& family, Signal& signal) {
        for (Signal& helper : family.signals) {
            if (helper.name == part) return helper;
        }
        Signal helper;
        helper.name = part;
        helper.claims.reset();
        signal.members.all.emplace_back(part);
        return family.signals.emplace_back(std::move(helper));
    }

    static Probe<D> line(const Vec<D>& from, const Vec<D>& along, double reach, double least, double most) {
        return {.of_kind = LineProbe<D>{.from = from,
                                        .along = along,
                                        .reach = reach,
                                        .accept_least_degrees = least,
                                        .accept_most_degrees = most}};
    }
    static Probe<D> swept(Probe<D> probe, const RoundedHull<D>& shape) {
        probe.line().shape = shape;
        probe.line().take = Take::all;
        probe.line().if_inside = IfInside::against;
        return probe;
    }
    [[nodiscard]] const Stance<D>& tallest() const {
        return *std::max_element(bare_.body.stances.begin(), bare_.body.stances.end(),
                                 [](const Stance<D>& a, const Stance<D>& b) {
                                     return a.shape.bounds().high[1] < b.shape.bounds().high[1];
                                 });
    }

    void along_up(bool down) {
        const Intent& intent = bare_.intent;
        const Vec<D> up = Vec<D>::Unit(1);
        const Vec<D> along = down ? Vec<D>(-up) : up;
        const double least = down ? 0.0 : 180.0 - intent.ceiling_within_degrees;
        const double most = down ? intent.steepest_footing_degrees : 180.0;
        const std::string part = down ? "soles" : "crown";
        const std::string way = down ? "down from the knee" : "up from the neck";
        const auto ray = [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
            const double inside = 0.25 * body.height;
            const double at = down ? inside : body.height - inside;
            return line(at * up, along, inside + intent.touch, least, most);
        };
        add("ray", "a ray straight " + way + ", to touch beyond the body", part, ray);
        add("three rays", "three rays " + way + ", as wide as the body", part,
            [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                Probe<D> probe = *ray(body);
                probe.line().spread = {SpreadKind::row, 3, 2.0 * body.half};
                return probe;
            });
        add("ball", "a ball as round as the body's end, swept by touch", part,
            [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                if (body.round <= 0.0) return std::nullopt;
                const double at = down ? body.round : body.height - body.round;
                return swept(line(at * up, along, intent.touch, least, most),
                             RoundedHull<D>::ball(Vec<D>::Zero(), body.round));
            });
        add("body", "the body itself, swept by touch", part,
            [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                return swept(line(body.middle, along, intent.touch, least, most), body.shape());
            });
    }

    void walls() {
        const Intent& intent = bare_.intent;
        const Vec<D> ahead = Vec<D>::Unit(0);
        const double least = intent.steepest_footing_degrees;
        const double most = 180.0 - intent.ceiling_within_degrees;
        const auto ray = [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
            return line(body.middle, ahead, body.half + intent.ahead_wall, least, most);
        };
        add("ray", "a ray ahead from the middle", "chest", ray);
        add("three rays", "three rays ahead, one above the other", "chest",
            [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                Probe<D> probe = *ray(body);
                probe.line().spread = {SpreadKind::row, 3, 0.8 * body.height};
                probe.line().spread.axis = SpreadAxis::up;
                return probe;
            });
        add("upper body", "the body from the tallest step up, swept ahead", "chest",
            [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                const double low = std::max(intent.tallest_step, intent.touch);
                const double height = body.height - low;
                if (height < std::max(0.1 * body.height, 2.0 * body.round)) return std::nullopt;
                Vec<D> size = body.stance.shape.bounds().size();
                size[1] = height;
                const Vec<D> end = (0.5 * height - body.round) * Vec<D>::Unit(1);
                return swept(
                    line((low + 0.5 * height) * Vec<D>::Unit(1), ahead, intent.ahead_wall, least, most),
                    body.round > 0.0 ? RoundedHull<D>::capsule(-end, end, body.round)
                                     : RoundedHull<D>::box(Vec<D>::Zero(), size));
            });
        add("body", "the body itself, swept ahead", "chest",
            [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                return swept(line(body.middle, ahead, intent.ahead_wall, least, most), body.shape());
            });
        const Part chest = {"chest", Role::all, [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                                return swept(line(body.middle, ahead, intent.ahead_wall, least, most),
                                             body.shape());
                            }};
        add("body, no step", "the body itself, swept ahead, where it could not be lifted on to what it meets",
            {chest, way_over(1.0), landing()});
        if (all_.empty() || all_.back().name != "body, no step") return;
        // On where the chest is and stepping is not: what makes a step goes into a helper of its own.
        TriedFamily<D>& family = all_.back();
        Signal& wall = family.signals.back();
        Signal stepping;
        stepping.name = "can be stepped on";
        stepping.claims.reset();
        stepping.members.none = std::move(wall.members.none);
        const auto is_landing = [](const Member& member) { return member.name.substr(0, 7) == "landing"; };
        for (const Member& member : wall.members.all) {
            if (is_landing(member)) stepping.members.all.push_back(member);
        }
        std::erase_if(wall.members.all, is_landing);
        wall.members.none = {Member(stepping.name)};
        family.signals.insert(family.signals.end() - 1, stepping);
    }

    void blocked() {
        const Intent& intent = bare_.intent;
        // Whatever the move runs against stops it, footing too; what it runs along does not.
        constexpr double flush = 0.1;  // degrees
        const double speed = 2.5 * tallest().shape.bounds().high[1];
        const auto planned = [=](Probe<D> probe) {
            *reach_of(probe) = intent.ahead_move;
            if (intent.ahead_move == 0.0) *reach_per_speed_of(probe) = intent.ahead_move_seconds;
            return probe;
        };
        add("ray", "a ray ahead from the middle, to where the move ends", "front",
            [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                return line(body.middle, Vec<D>::Unit(0), body.half + intent.planned_move(speed), 0.0, 180.0);
            });
        add("body", "the body itself, swept by the planned move", "front",
            [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                return planned(swept(line(body.middle, Vec<D>::Unit(0), 1.0, flush, 180.0), body.shape()));
            });
        add("shift", "the body placed where the planned move ends", "front",
            [=](const Fitted<D>&) -> std::optional<Probe<D>> {
                return planned({.of_kind = ShiftProbe<D>{.inset = intent.touch}});
            });
    }

    void drops() {
        const Intent& intent = bare_.intent;
        const double above = intent.tallest_step;
        const auto down = [=](double forward) {
            Vec<D> from = above * Vec<D>::Unit(1);
            from[0] = forward;
            return line(from, -Vec<D>::Unit(1), above + intent.deepest_drop, 0.0,
                        intent.steepest_footing_degrees);
        };
        add(
            "ray", "a ray down where the edge counts as near, on ground", "toes",
            [=](const Fitted<D>&) -> std::optional<Probe<D>> { return down(intent.ahead_drop); }, true);
        add(
            "ball", "a ball down where the edge counts as near, on ground", "toes",
            [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                const double radius = body.round > 0.0 ? body.round : body.half;
                return swept(down(intent.ahead_drop + 0.7 * radius),
                             RoundedHull<D>::ball(Vec<D>::Zero(), 0.5 * radius));
            },
            true);
        const Part toes = {"toes", Role::none, [=](const Fitted<D>&) -> std::optional<Probe<D>> {
                               return down(intent.ahead_drop);
                           }};
        const Part way = {"way ahead", Role::none, [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                              return swept(line(body.middle + above * Vec<D>::Unit(1), Vec<D>::Unit(0),
                                                intent.ahead_drop, intent.steepest_footing_degrees, 180.0),
                                           body.shape());
                          }};
        add("ray and way",
            "a ray down where the edge counts as near, on ground, where the body, lifted, can go on",
            {toes, way});
    }

    /// How much a body must be raised so that what rises less than `lowest_step` does not stop it as steep.
    [[nodiscard]] double raised(const Fitted<D>& body) const {
        const double met_as_steep =
            body.round * (1.0 - std::cos(radians(bare_.intent.steepest_footing_degrees)));
        return std::max(0.0, bare_.intent.lowest_step - met_as_steep);
    }
    [[nodiscard]] double tread(const Fitted<D>& body) const {
        return bare_.intent.tread > 0.0 ? bare_.intent.tread : body.half;
    }

    /// The body lifted on to a step sweeps on: stopped by what is steeper than footing, or, with a small
    /// angle, touched at all: what rises more may have a round edge.
    [[nodiscard]] Part way_over(double from_degrees) const {
        return {"way over", Role::none, [=, this](const Fitted<D>& body) -> std::optional<Probe<D>> {
                    Probe<D> probe =
                        swept(line(body.middle + bare_.intent.tallest_step * Vec<D>::Unit(1), Vec<D>::Unit(0),
                                   bare_.intent.ahead_step + tread(body), from_degrees, 180.0),
                              body.shape());
                    probe.line().if_inside = IfInside::report;
                    return probe;
                }};
    }
    /// … and is lowered again on to footing.
    [[nodiscard]] Part landing() const {
        return {
            "landing", Role::all, [=, this](const Fitted<D>& body) -> std::optional<Probe<D>> {
                const Intent& intent = bare_.intent;
                Probe<D> probe = swept(
                    line(body.middle + intent.tallest_step * Vec<D>::Unit(1) + tread(body) * Vec<D>::Unit(0),
                         -Vec<D>::Unit(1), intent.tallest_step - intent.lowest_step + intent.touch, 0.0,
                         intent.steepest_footing_degrees),
                    body.shape());
                probe.line().take = Take::first;
                return probe;
            }};
    }

    void steps() {
        const Intent& intent = bare_.intent;
        const Vec<D> up = Vec<D>::Unit(1);
        const Vec<D> ahead = Vec<D>::Unit(0);
        const double least = intent.steepest_footing_degrees;
        const double most = 180.0 - intent.ceiling_within_degrees;
        add("two rays", "a ray ahead at the shin that hits, and one above the tallest step that does not",
            {{"shin", Role::any,
              [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                  return line(0.5 * (intent.lowest_step + intent.tallest_step) * up, ahead,
                              body.half + intent.ahead_step, least, most);
              }},
             {"knee", Role::none, [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                  return line((intent.tallest_step + intent.touch) * up, ahead,
                              body.half + intent.ahead_step + body.half, 0.0, 180.0);
              }}});
        const Part riser = {
            "riser", Role::all, [=, this](const Fitted<D>& body) -> std::optional<Probe<D>> {
                return swept(line(body.middle + raised(body) * up, ahead, intent.ahead_step, least, most),
                             body.shape());
            }};
        add("riser and landing", "the body swept ahead, and lowered on to what is beyond",
            {riser, landing()});
        add("riser, way and landing",
            "the body swept ahead, lifted past the riser without being stopped, and lowered on to what is "
            "beyond",
            {riser, way_over(least), landing()});
        add("riser, free way and landing",
            "the body swept ahead, lifted past the riser without touching, and lowered on to what is beyond",
            {riser, way_over(1.0), landing()});
    }

    /// The stance that is to stand on a ledge: the body's first.
    [[nodiscard]] const Stance<D>& climber() const { return bare_.body.stances.front(); }

    void ledges() {
        const Intent& intent = bare_.intent;
        const Vec<D> up = Vec<D>::Unit(1);
        const Vec<D> ahead = Vec<D>::Unit(0);
        const double least = intent.steepest_footing_degrees;
        const double most = 180.0 - intent.ceiling_within_degrees;
        const double low = intent.ledge_between[0];
        const double high = intent.ledge_between[1];
        const Part chest = {"face", Role::all, [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                                Probe<D> probe = swept(
                                    line(body.middle, ahead, intent.ahead_ledge, least, most), body.shape());
                                probe.line().take = Take::first;
                                return probe;
                            }};
        // The climber's back past the face, wherever within reach that is: half way on average.
        const auto over = [=, this](const Fitted<D>& body) {
            const Fitted<D> standing(climber());
            return body.half + 0.5 * intent.ahead_ledge + tread(standing) + standing.half;
        };
        const Part top_ray = {"top", Role::all, [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                                  return line(
                                      (high + intent.touch) * up +
                                          (body.half + 0.5 * intent.ahead_ledge + 0.1 * body.half) * ahead,
                                      -up, high - low + 2.0 * intent.touch, 0.0, least);
                              }};
        const Part top = {"top", Role::all, [=, this](const Fitted<D>& body) -> std::optional<Probe<D>> {
                              const Fitted<D> standing(climber());
                              Probe<D> probe = swept(
                                  line(standing.middle + (high + intent.touch) * up + over(body) * ahead, -up,
                                       high - low + 2.0 * intent.touch, 0.0, least),
                                  standing.shape());
                              probe.line().take = Take::first;
                              return probe;
                          }};
        const Part room = {
            "room there", Role::none, [=, this](const Fitted<D>& body) -> std::optional<Probe<D>> {
                const Fitted<D> standing(climber());
                const Vec<D> from = standing.middle + (high + intent.touch) * up + over(body) * ahead;
                return Probe<D>{.of_kind = ZoneProbe<D>{standing.shape(), from}};
            }};
        add("chest and a ray", "the body swept ahead, and a ray down beyond the face", {chest, top_ray});
        add("chest and climber",
            "the body swept ahead, and the stance that is to stand there lowered beyond the face",
            {chest, top});
        add("chest, climber and room",
            "the body swept ahead, and the stance that is to stand there lowered beyond the face from where "
            "it fits",
            {chest, room, top});
    }

    void headroom() {
        const Fitted<D> upright(tallest());
        const double touch = bare_.intent.touch;
        add(
            "ray", "a ray up to the height of the stance that is to fit", "room above",
            [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                return line(0.5 * body.height * Vec<D>::Unit(1), Vec<D>::Unit(1),
                            upright.height - touch - 0.5 * body.height, 0.0, 180.0);
            },
            true);
        add(
            "zone", "the stance that is to fit, smaller by touch, as a zone", "room above",
            [this, touch](const Fitted<D>&) -> std::optional<Probe<D>> {
                const Fitted<D> body(tallest());
                const Vec<D> size = body.stance.shape.bounds().size();
                Vec<D> factors;
                for (int axis = 0; axis < D; ++axis)
                    factors[axis] = std::max(0.1, 1.0 - 2.0 * touch / size[axis]);
                const double radius = body.stance.shape.radius();
                const RoundedHull<D> smaller = radius > touch ? body.shape().with_radius(radius - touch)
                                                              : body.shape().stretched(factors);
                return Probe<D>{.of_kind = ZoneProbe<D>{smaller, body.middle}};
            },
            true);
    }

    const Rig<D>& bare_;
    Claim claim_;
    std::string standing_;
    std::vector<TriedFamily<D>> all_;
};

}  // namespace

template <int D>
std::vector<TriedFamily<D>> families_of(const Rig<D>& bare, Claim claim, const std::string& standing) {
    return Families<D>(bare, claim, standing).all();
}

template <int D>
std::vector<std::string> tunable(const TriedFamily<D>& family) {
    std::vector<std::string> paths;
    for (const Probe<D>& probe : family.probes) {
        const std::string own = "probe." + probe.name + ".";
        if (!probe.is_line()) continue;
        const LineProbe<D>& line = probe.line();
        paths.push_back(own + (line.reach_per_speed > 0.0 ? "reach.per_speed" : "reach"));
        if (std::abs(line.along[1]) > 0.5 && line.from[0] != 0.0) paths.push_back(own + "from[0]");
    }
    return paths;
}

template std::vector<TriedFamily<2>> families_of<2>(const Rig<2>&, Claim, const std::string&);
template std::vector<TriedFamily<3>> families_of<3>(const Rig<3>&, Claim, const std::string&);
template std::vector<std::string> tunable<2>(const TriedFamily<2>&);
template std::vector<std::string> tunable<3>(const TriedFamily<3>&);

}  // namespace hollow_probe

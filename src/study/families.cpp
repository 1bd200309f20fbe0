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
            case Claim::ledge:
                break;
        }
        return std::move(all_);
    }

  private:
    using Make = std::function<std::optional<Probe<D>>(const Fitted<D>&)>;

    /// A probe in each stance; none where some stance can have none.
    void add(const std::string& name, const std::string& what, const std::string& part, const Make& make,
             bool on_without_hit = false) {
        TriedFamily<D> family;
        family.name = name;
        family.what = what;
        Signal signal;
        signal.name = name_of(std::optional(claim_));
        signal.claims = claim_;
        for (const Stance<D>& stance : bare_.body.stances) {
            std::optional<Probe<D>> probe = make(Fitted<D>(stance));
            if (!probe) return;
            const bool several = bare_.body.stances.size() > 1;
            probe->name = part + (several ? ", " + stance.name : "");
            if (several) probe->stances = {stance.name};
            probe->sees = bare_.body.meets;
            probe->faces = bare_.body.faces;
            (on_without_hit ? signal.members.none : signal.members.any).emplace_back(probe->name);
            family.probes.push_back(std::move(*probe));
        }
        if (claim_ == Claim::drop) signal.members.all.emplace_back(standing_);
        if (claim_ == Claim::headroom) signal.stance = tallest().name;
        family.signals = {signal};
        all_.push_back(std::move(family));
    }

    static Probe<D> line(const Vec<D>& from, const Vec<D>& along, double reach, double least, double most) {
        Probe<D> probe;
        probe.from = from;
        probe.along = along;
        probe.reach = reach;
        probe.accept_least_degrees = least;
        probe.accept_most_degrees = most;
        return probe;
    }
    static Probe<D> swept(Probe<D> probe, const RoundedHull<D>& shape) {
        probe.kind = ProbeKind::cast;
        probe.shape = shape;
        probe.take = Take::all;
        probe.if_inside = IfInside::against;
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
                probe.spread.kind = SpreadKind::row;
                probe.spread.count = 3;
                probe.spread.width = 2.0 * body.half;
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
                probe.spread.kind = SpreadKind::row;
                probe.spread.count = 3;
                probe.spread.width = 0.8 * body.height;
                probe.spread.axis = SpreadAxis::up;
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
    }

    void blocked() {
        const Intent& intent = bare_.intent;
        const double speed = 2.5 * tallest().shape.bounds().high[1];
        const auto planned = [=](Probe<D> probe) {
            if (intent.ahead_move > 0.0) {
                probe.reach = intent.ahead_move;
            } else {
                probe.reach = 0.0;
                probe.reach_per_speed = intent.ahead_move_seconds;
            }
            return probe;
        };
        add("ray", "a ray ahead from the middle, to where the move ends", "front",
            [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                return line(body.middle, Vec<D>::Unit(0), body.half + intent.planned_move(speed), 0.0, 180.0);
            });
        add("body", "the body itself, swept by the planned move", "front",
            [=](const Fitted<D>& body) -> std::optional<Probe<D>> {
                return planned(
                    swept(line(body.middle, Vec<D>::Unit(0), 1.0, intent.steepest_footing_degrees, 180.0),
                          body.shape()));
            });
        add("shift", "the body placed where the planned move ends", "front",
            [=](const Fitted<D>&) -> std::optional<Probe<D>> {
                Probe<D> probe;
                probe.kind = ProbeKind::shift;
                probe.along = Vec<D>::Unit(0);
                probe.inset = intent.touch;
                return planned(probe);
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
                Probe<D> probe;
                probe.kind = ProbeKind::zone;
                probe.from = body.middle;
                const double radius = body.stance.shape.radius();
                probe.shape = radius > touch ? body.shape().with_radius(radius - touch)
                                             : body.shape().stretched(factors);
                return probe;
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
        const bool is_line = probe.kind == ProbeKind::ray || probe.kind == ProbeKind::cast;
        if (is_line) paths.push_back(own + (probe.reach_per_speed > 0.0 ? "reach.per_speed" : "reach"));
        if (is_line && std::abs(probe.along[1]) > 0.5 && probe.from[0] != 0.0)
            paths.push_back(own + "from[0]");
    }
    return paths;
}

template std::vector<TriedFamily<2>> families_of<2>(const Rig<2>&, Claim, const std::string&);
template std::vector<TriedFamily<3>> families_of<3>(const Rig<3>&, Claim, const std::string&);
template std::vector<std::string> tunable<2>(const TriedFamily<2>&);
template std::vector<std::string> tunable<3>(const TriedFamily<3>&);

}  // namespace hollow_probe

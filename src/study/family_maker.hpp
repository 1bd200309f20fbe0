// How families of probes are put together: each part fitted to every stance, and a signal made of them.
#pragma once

#include <algorithm>
#include <cmath>
#include <functional>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "hollow_probe/study/propose.hpp"

namespace hollow_probe {

/// A stance as probes are fitted to it.
template <int D>
struct Fitted {
    explicit Fitted(const Stance<D>& of) : stance(of) {
        const Bounds<D> bounds = of.shape.bounds();
        height = bounds.high[1];
        for (int axis = 0; axis < D; ++axis) {
            if (axis != 1) half = std::max({half, bounds.high[axis], -bounds.low[axis]});
        }
        middle = 0.5 * height * Vec<D>::unit(1);
        round = of.shape.points().size() <= 2 ? of.shape.radius() : 0.0;
        is_box = of.shape.radius() == 0.0 && of.shape.points().size() == std::size_t{1} << D;
    }

    /// The stance around its middle, as a probe's shape.
    [[nodiscard]] RoundedHull<D> shape() const { return stance.shape.placed(Mat<D>::identity(), -middle); }
    /// … smaller by `inset` on every side.
    [[nodiscard]] RoundedHull<D> smaller(double inset) const {
        const double radius = stance.shape.radius();
        if (radius > inset) return shape().with_radius(radius - inset);
        const Vec<D> size = stance.shape.bounds().size();
        Vec<D> factors;
        for (int axis = 0; axis < D; ++axis) factors[axis] = std::max(0.1, 1.0 - 2.0 * inset / size[axis]);
        return shape().stretched(factors);
    }

    const Stance<D>& stance;
    double height = 0.0;
    double half = 0.0;    // its width to any side, at most
    double round = 0.0;   // radius of its ends; 0: it has none
    bool is_box = false;  // with flat sides and corners
    Vec<D> middle;
};

/// How a signal takes a part.
enum class PartRole { any, all, none };

/// One probe of a family: a name, how the signal takes it, and how it is fitted to a stance.
template <int D>
struct FamilyPart {
    using Make = std::function<std::optional<Probe<D>>(const Fitted<D>&)>;

    std::string name;
    PartRole role = PartRole::any;
    Make make;                 // nothing: a stance can have no such probe
    std::string follows = {};  // another part
};

template <int D>
using FamilyParts = std::vector<FamilyPart<D>>;

/// Collects the families of one claim.
template <int D>
class FamilyMaker {
  public:
    /// `standing` names a signal that tells ground.
    FamilyMaker(const Rig<D>& bare, Claim claim, std::string standing)
        : intent(bare.intent), bare_(bare), claim_(claim), standing_(std::move(standing)) {}

    const Intent& intent;

    /// Parts that together keep the signal off: a helper of that name.
    struct Against {
        std::string name;
        FamilyParts<D> parts;
    };

    /// Adds a family of these parts in each stance; none where some stance cannot have one of them. The
    /// signal is on where they say so and none of `against` does.
    void add(const std::string& name, const std::string& what, const FamilyParts<D>& parts,
             const std::vector<Against>& against = {}) {
        TriedFamily<D> family;
        family.name = name;
        family.what = what;
        Signal signal;
        signal.name = name_of(std::optional(claim_));
        signal.claims = claim_;
        if (!mount(parts, family, signal)) return;
        for (const Against& one : against) {
            Signal refused;
            refused.name = one.name;
            refused.claims.reset();
            if (!mount(one.parts, family, refused)) return;
            family.signals.push_back(std::move(refused));
            signal.members.none.emplace_back(one.name);
        }
        if (claim_ == Claim::drop) signal.members.all.emplace_back(standing_);
        if (claim_ == Claim::headroom) signal.stance = tallest().name;
        if (claim_ == Claim::ledge) signal.stance = climber().name;
        family.signals.push_back(std::move(signal));
        all_.push_back(std::move(family));
    }
    std::vector<TriedFamily<D>> take() { return std::move(all_); }

    [[nodiscard]] const Stance<D>& tallest() const {
        return *std::max_element(bare_.body.stances.begin(), bare_.body.stances.end(),
                                 [](const Stance<D>& a, const Stance<D>& b) {
                                     return a.shape.bounds().high[1] < b.shape.bounds().high[1];
                                 });
    }
    /// The stance that is to stand on a ledge: the body's first.
    [[nodiscard]] const Stance<D>& climber() const { return bare_.body.stances.front(); }
    /// How far on to a step a stance must get.
    [[nodiscard]] double tread(const Fitted<D>& body) const {
        return intent.tread > 0.0 ? intent.tread : body.half;
    }

    static Probe<D> line(const Vec<D>& from, const Vec<D>& along, double reach, double least, double most) {
        return {.of_kind = LineProbe<D>{.from = from,
                                        .along = along,
                                        .reach = reach,
                                        .accept_least_degrees = least,
                                        .accept_most_degrees = most}};
    }
    /// A cast of a shape, taking any accepted hit, what it starts in where it runs further into it.
    static Probe<D> swept(Probe<D> probe, const RoundedHull<D>& shape) {
        probe.line().shape = shape;
        probe.line().take = Take::all;
        probe.line().if_inside = IfInside::against;
        return probe;
    }
    /// … considering the first hit alone.
    static Probe<D> swept_to_first(Probe<D> probe, const RoundedHull<D>& shape) {
        probe = swept(std::move(probe), shape);
        probe.line().take = Take::first;
        return probe;
    }

  private:
    /// The parts as probes of the family, in every stance, and as members of the signal.
    bool mount(const FamilyParts<D>& parts, TriedFamily<D>& family, Signal& signal) const {
        const bool several = bare_.body.stances.size() > 1;
        for (const Stance<D>& stance : bare_.body.stances) {
            const std::string in_stance = several ? ", " + stance.name : "";
            for (const FamilyPart<D>& part : parts) {
                std::optional<Probe<D>> probe = part.make(Fitted<D>(stance));
                if (!probe) return false;
                probe->name = part.name + in_stance;
                if (!part.follows.empty()) probe->follows = part.follows + in_stance;
                if (several) probe->stances = {stance.name};
                probe->sees = bare_.body.meets;
                if (probe->is_line()) probe->line().faces = bare_.body.faces;
                // Probes of other stances are not mounted: they say no to `all`.
                auto& members = part.role == PartRole::none              ? signal.members.none
                                : part.role == PartRole::all && !several ? signal.members.all
                                : part.role == PartRole::all ? all_of(part.name, family, signal).members.any
                                                             : signal.members.any;
                members.emplace_back(probe->name);
                const auto same = [&](const Probe<D>& other) { return other.name == probe->name; };
                if (std::none_of(family.probes.begin(), family.probes.end(), same))
                    family.probes.push_back(std::move(*probe));
            }
        }
        return true;
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

    const Rig<D>& bare_;
    Claim claim_;
    std::string standing_;
    std::vector<TriedFamily<D>> all_;
};

/// Add the families of a claim, the plainest first.
template <int D>
void add_ground_families(FamilyMaker<D>& maker);
template <int D>
void add_ceiling_families(FamilyMaker<D>& maker);
template <int D>
void add_headroom_families(FamilyMaker<D>& maker);
template <int D>
void add_blocked_families(FamilyMaker<D>& maker);
template <int D>
void add_drop_families(FamilyMaker<D>& maker);
template <int D>
void add_wall_families(FamilyMaker<D>& maker);
template <int D>
void add_step_families(FamilyMaker<D>& maker);
template <int D>
void add_ledge_families(FamilyMaker<D>& maker);

}  // namespace hollow_probe

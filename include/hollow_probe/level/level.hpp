// A level: named solids on layers, cut into convex pieces, with an index over them.
#pragma once

#include <optional>
#include <span>
#include <string>
#include <unordered_set>
#include <vector>

#include "hollow_probe/geometry/bounds_tree.hpp"
#include "hollow_probe/geometry/hull_store.hpp"
#include "hollow_probe/geometry/rounded_hull.hpp"
#include "hollow_probe/geometry/tolerances.hpp"
#include "hollow_probe/level/claim.hpp"
#include "hollow_probe/level/path.hpp"

namespace hollow_probe {

/// Who meets a solid.
enum class Role : std::uint8_t {
    both,       // probes and the body
    sensed,     // probes alone: a smooth ramp laid over stairs
    reference,  // the body alone: what stops it though the game's queries do not find it
};

const char* name_of(Role role);  // "both", …

/// When probes meet a solid at all: in some stances, at some speeds.
struct SensedWhen {
    std::vector<std::string> stances = {};  // empty: in every stance
    double slowest = 0.0;                   // speeds of the body, inclusive
    double fastest = infinity;

    bool operator==(const SensedWhen&) const = default;
};

/// A named solid; its pieces are numbers first_piece … first_piece + piece_count - 1 of the level.
template <int D>
struct Solid {
    std::string name;
    std::uint32_t layer = 0;
    std::uint32_t first_piece = 0;
    std::uint32_t piece_count = 0;
    /// 2D polygons and polylines: the author's corners, for drawing without the cuts between pieces. Else
    /// empty.
    std::vector<Vec<D>> outline;
    bool closed = true;  // the outline is a polygon, not a polyline
    /// Unit; solid only to what arrives against this direction and does not overlap it already.
    std::optional<Vec<D>> one_way;
    Role role = Role::both;
    std::optional<SensedWhen> sensed_when = {};
    std::optional<Path<D>> path = {};
    bool volume = false;   // an area that queries find though nothing is there
    std::uint8_t bit = 0;  // of a LayerSet: `layer`, or one shared with solids that are met as this one is
};

/// A named part of a level.
template <int D>
struct Area {
    std::string name;
    Bounds<D> box;

    /// The sides belong to it.
    [[nodiscard]] bool contains(const Vec<D>& point) const {
        return all_at_most(box.low, point) && all_at_most(point, box.high);
    }
};

/// What the level's author states of a truth: that it never or always holds with the anchor in an area.
struct AreaClaim {
    std::string area;
    Claim truth = Claim::ground;
    bool always = false;  // else never
};

/// A named place to put a body.
template <int D>
struct StartPoint {
    std::string name;
    Vec<D> at = Vec<D>::zero();
    Vec<D> heading = Vec<D>::unit(0);
};

/// A layer bit that probes see at some speeds only.
struct SpeedGate {
    LayerSet bit = 0;
    double slowest = 0.0;
    double fastest = infinity;

    [[nodiscard]] bool open_at(double speed) const { return speed >= slowest && speed <= fastest; }
};

/// Level geometry, immutable once built; see LevelBuilder. Queries are safe from any number of threads.
template <int D>
class Level {
  public:
    [[nodiscard]] const Vec<D>& up() const { return up_; }
    [[nodiscard]] const std::vector<std::string>& layers() const { return layers_; }
    [[nodiscard]] const std::vector<Solid<D>>& solids() const { return solids_; }
    [[nodiscard]] const std::vector<StartPoint<D>>& starts() const { return starts_; }
    [[nodiscard]] const std::vector<Area<D>>& areas() const { return areas_; }
    [[nodiscard]] const std::vector<AreaClaim>& claims() const { return claims_; }
    /// What was not understood of the files it comes from, and may have been lost.
    [[nodiscard]] const std::vector<std::string>& warnings() const { return warnings_; }
    [[nodiscard]] const Bounds<D>& bounds() const { return bounds_; }
    [[nodiscard]] const BoundsTree<D>& tree() const { return tree_; }
    /// How often solids were put elsewhere: see ShiftingLevel.
    [[nodiscard]] std::uint64_t shifts() const { return shifts_; }

    [[nodiscard]] std::uint32_t piece_count() const { return pieces_.size(); }
    [[nodiscard]] HullView<D> piece(std::uint32_t index) const { return pieces_[index]; }
    [[nodiscard]] const HullStore<D>& pieces() const { return pieces_; }
    [[nodiscard]] std::uint32_t solid_of(std::uint32_t piece) const { return solid_of_piece_[piece]; }
    [[nodiscard]] std::uint32_t layer_of(std::uint32_t piece) const {
        return solids_[solid_of_piece_[piece]].layer;
    }
    /// Whether a piece stops what moves along `direction`: false for one-way pieces not run against.
    [[nodiscard]] bool faces(std::uint32_t piece, const Vec<D>& direction) const {
        const auto& one_way = solids_[solid_of_piece_[piece]].one_way;
        return !one_way || one_way->dot(direction) < -tolerance::approaches;
    }
    [[nodiscard]] bool is_one_way(std::uint32_t piece) const {
        return solids_[solid_of_piece_[piece]].one_way.has_value();
    }
    /// The number of its bit in a LayerSet.
    [[nodiscard]] std::uint8_t bit_of(std::uint32_t piece) const {
        return solids_[solid_of_piece_[piece]].bit;
    }
    [[nodiscard]] bool on_layers(std::uint32_t piece, LayerSet mask) const {
        return mask >> bit_of(piece) & 1U;
    }

    [[nodiscard]] std::optional<std::uint32_t> find_layer(const std::string& name) const;
    [[nodiscard]] const StartPoint<D>* find_start(const std::string& name) const;
    [[nodiscard]] const Area<D>* find_area(const std::string& name) const;
    [[nodiscard]] bool has_paths() const;
    /// The level with its moving solids where they are at a time.
    [[nodiscard]] Level at(double seconds) const;
    /// The bits of the named layers, as probes (`sensed`) or a body (`reference`) meet them: with the solids
    /// that are for both, and those that are for them alone; Role::both leaves the latter out. Throws
    /// InvalidInput for a layer the level does not declare. Solids sensed only at times are left out of what
    /// probes meet: see speed_gates().
    [[nodiscard]] LayerSet mask_of(const std::vector<std::string>& names, Role as) const;
    /// The bits of solids on the named layers that probes meet in this stance at some speeds.
    [[nodiscard]] std::vector<SpeedGate> speed_gates(const std::vector<std::string>& names,
                                                     const std::string& stance) const;

  private:
    template <int>
    friend class LevelBuilder;
    template <int>
    friend class ShiftingLevel;

    void make_index();

    Vec<D> up_ = Vec<D>::unit(1);
    std::vector<std::string> layers_;
    std::vector<Solid<D>> solids_;
    std::vector<std::uint32_t> of_own_bits_;  // the first solid of each bit that is no layer's
    std::vector<StartPoint<D>> starts_;
    std::vector<Area<D>> areas_;
    std::vector<AreaClaim> claims_;
    std::vector<std::string> warnings_;
    HullStore<D> pieces_;
    std::vector<std::uint32_t> solid_of_piece_;
    Bounds<D> bounds_;
    BoundsTree<D> tree_;
    std::uint64_t shifts_ = 0;
};

/// Builds a level piece by piece.
///
///     LevelBuilder<2> builder({"masonry", "grating"});
///     builder.add("quay", "masonry", RoundedHull<2>::box({0, -0.5}, {40, 1}));
///     builder.start("gate", {1, 0}, {1, 0});
///     const Level<2> level = builder.build();
///
/// Every call throws InvalidInput, saying what is wrong, for undeclared layers, names given twice and shapes
/// that cannot be built, and leaves the builder as it was.
template <int D>
class LevelBuilder {
  public:
    /// One to 64 layers, each named once. `up` need not be of unit length but must not be zero.
    explicit LevelBuilder(std::vector<std::string> layers, const Vec<D>& up = Vec<D>::unit(1));

    LevelBuilder& add(const std::string& name, const std::string& layer, const RoundedHull<D>& shape);
    /// A solid of several convex parts; at least one.
    LevelBuilder& add_parts(const std::string& name, const std::string& layer,
                            std::span<const RoundedHull<D>> parts);
    /// Makes the solid added last solid only to what arrives against `direction`, which is not zero.
    LevelBuilder& one_way(const Vec<D>& direction);
    /// Says who meets the solid added last. Layers and solids' roles on them together are at most 64.
    LevelBuilder& role(Role role);
    /// Says when probes meet the solid added last; not for what they never meet.
    LevelBuilder& sensed_when(SensedWhen when);
    /// Lets the solid added last move.
    LevelBuilder& path(Path<D> path);
    /// Names a box with low < high; `layer`, if given, is one on which queries find it though it is not
    /// solid.
    LevelBuilder& area(const std::string& name, const Bounds<D>& box, const std::string& layer = {});
    /// States a truth by hand for an area named before.
    LevelBuilder& claim(const AreaClaim& claim);
    /// A filled simple polygon of either winding.
    LevelBuilder& add_polygon(const std::string& name, const std::string& layer,
                              const std::vector<Vec<2>>& corners) requires(D == 2);
    /// A chain of segments without thickness; at least two corners, no two neighbours equal.
    LevelBuilder& add_polyline(const std::string& name, const std::string& layer,
                               const std::vector<Vec<2>>& corners) requires(D == 2);
    /// A triangle mesh: a surface, hollow inside. Triangles without area are kept as what they degenerate to.
    LevelBuilder& add_mesh(const std::string& name, const std::string& layer,
                           const std::vector<Vec<3>>& vertices,
                           const std::vector<std::array<std::uint32_t, 3>>& triangles) requires(D == 3);
    /// `heading` is taken without its part along up, and must not be parallel to it.
    LevelBuilder& start(const std::string& name, const Vec<D>& at, const Vec<D>& heading);

    /// Notes what may have been lost; the same is noted once.
    LevelBuilder& warn(const std::string& warning);

    [[nodiscard]] const Vec<D>& up() const { return level_.up_; }

    /// Throws InvalidInput when there is no solid. The builder is spent.
    Level<D> build();

  private:
    Solid<D>& begin_solid(const std::string& name, const std::string& layer);
    Solid<D>& last_solid(const char* what);
    void find_bits();
    void append(const RoundedHull<D>& shape);
    void append_facet(const std::array<Vec<D>, D>& corners);

    Level<D> level_;
    std::unordered_set<std::string> names_;
};

/// `heading` without its part along `up`, made unit. Throws InvalidInput when nothing is left.
template <int D>
Vec<D> level_heading(const Vec<D>& heading, const Vec<D>& up);

extern template class Level<2>;
extern template class Level<3>;
extern template class LevelBuilder<2>;
extern template class LevelBuilder<3>;

}  // namespace hollow_probe

// The same rig on the game's own world: here a toy one, a grid of full cells that answers queries itself.
#include <algorithm>
#include <cmath>
#include <cstdio>

#include "hollow_probe/rig/mount.hpp"

namespace {

using namespace hollow_probe;

/// Full cells of size 1, the lowest row at height 0. It sees a shape as the box around it, which is all its
/// game needs.
class GridWorld {
  public:
    explicit GridWorld(std::vector<std::string> rows) : rows_(std::move(rows)) {}

    // The nearest cell that the box around the mover comes to touch.
    bool first_hit(const LevelCast<2>& cast, const AngleRange& angles, LevelHit<2>& hit) const noexcept {
        const Bounds<2> mover = bounds_of(cast.mover).moved(cast.start);
        Bounds<2> swept = mover;
        swept.grow(mover.moved(cast.reach * cast.direction));
        bool any = false;
        for_each_cell(swept, [&](const Bounds<2>& cell, std::uint32_t number) {
            // The times at which the boxes begin and end to overlap along each axis.
            double enter = -infinity;
            double leave = infinity;
            Vec<2> normal = Vec<2>::zero();
            for (int axis = 0; axis < 2; ++axis) {
                const double speed = cast.direction[axis];
                const double before = cell.low[axis] - mover.high[axis];
                const double behind = cell.high[axis] - mover.low[axis];
                if (speed == 0.0) {
                    if (before >= 0.0 || behind <= 0.0) return;
                    continue;
                }
                const double first = (speed > 0.0 ? before : behind) / speed;
                leave = std::min(leave, (speed > 0.0 ? behind : before) / speed);
                if (first <= enter) continue;
                enter = first;
                normal = Vec<2>::zero();
                normal[axis] = speed > 0.0 ? -1.0 : 1.0;
            }
            const bool inside = enter < 0.0 && leave > 0.0;
            if (enter > leave || leave < 0.0 || enter > cast.reach ||
                (inside && cast.if_inside == IfInside::ignore))
                return;
            const double distance = std::max(enter, 0.0);
            if ((any && distance >= hit.distance) || !within<2>(angles, normal, cast.direction, {0.0, 1.0}))
                return;
            any = true;
            hit.distance = distance;
            hit.normal = normal;
            hit.point = cast.start + distance * cast.direction;
            hit.solid = number;
            hit.piece = number;
            hit.layer = 0;
            hit.began_inside = inside;
        });
        return any;
    }

    std::size_t overlapping(const LevelQuery<2>& query, std::span<LevelNeighbour<2>> found) const noexcept {
        std::size_t count = 0;
        const Bounds<2> box = bounds_of(query.shape).moved(query.at);
        for_each_cell(box, [&](const Bounds<2>& cell, std::uint32_t number) {
            const Vec<2> shared = box.high.min(cell.high) - box.low.max(cell.low);
            if (shared.smallest() <= 0.0) return;
            if (count < found.size()) {
                found[count] = {};
                found[count].gap = -shared.smallest();
                found[count].solid = number;
            }
            ++count;
        });
        return count;
    }

  private:
    template <class Visit>
    void for_each_cell(const Bounds<2>& around, Visit visit) const noexcept {
        const auto index = [](double x) { return static_cast<std::int64_t>(std::floor(x)); };
        const auto height = static_cast<std::int64_t>(rows_.size());
        for (std::int64_t y = std::max<std::int64_t>(0, index(around.low.y()));
             y <= std::min(height - 1, index(around.high.y())); ++y) {
            const std::string& row = rows_[static_cast<std::size_t>(height - 1 - y)];
            const auto width = static_cast<std::int64_t>(row.size());
            for (std::int64_t x = std::max<std::int64_t>(0, index(around.low.x()));
                 x <= std::min(width - 1, index(around.high.x())); ++x) {
                if (row[static_cast<std::size_t>(x)] != '#') continue;
                const Vec<2> low(static_cast<double>(x), static_cast<double>(y));
                visit(Bounds<2>{low, low + Vec<2>(1.0, 1.0)}, static_cast<std::uint32_t>(y * width + x));
            }
        }
    }

    std::vector<std::string> rows_;
};
static_assert(QueryBackEnd<GridWorld, 2>);

}  // namespace

int main() {
    const GridWorld world({"............",  //
                           ".........#..",  //
                           "######..####"});

    Rig<2> rig;
    rig.body.meets = {"cells"};
    rig.body.stances = {Stance<2>::box("upright", {0.6, 0.9})};
    Probe<2> sole;
    sole.name = "sole";
    sole.line().shape = RoundedHull<2>::box({0.0, 0.0}, {0.6, 0.1});
    sole.line().from = {0.0, 0.3};
    sole.line().reach = 0.27;  // 0.25 to the ground, and 0.02
    sole.sees = {"cells"};
    const Probe<2> nose{.name = "nose", .sees = {"cells"}, .of_kind = ShiftProbe<2>{.reach = 0.1}};
    rig.probes = {sole, nose};
    Signal grounded;
    grounded.name = "grounded";
    grounded.members.any = {"sole"};
    grounded.grace = 0.1;
    Signal blocked;
    blocked.name = "blocked";
    blocked.claims = Claim::wall;
    blocked.members.any = {"nose"};
    rig.signals = {grounded, blocked};

    // Once for each body; then every tick, without allocation.
    const LayerBits<2> layers{{0.0, 1.0}, {"cells"}};
    MountedRig<2> mounted(rig, layers, 0, {1.0, 0.0});
    RigMemory memory = mounted.memory();
    std::printf("    x  grounded  blocked\n");
    Vec<2> at(4.0, 1.0);
    int blocked_ticks = 0;
    for (int tick = 0; tick < 60; ++tick) {
        const Vec<2> before = at;
        at.x() += 5.0 / 60.0;
        mounted.aim({{1.0, 0.0}, {5.0, 0.0}, {1.0, 0.0}, memory.grounded});
        const SignalSet on = mounted.tick(world, {at, before, 1.0 / 60.0}, memory);
        blocked_ticks += on.has(1) ? 1 : 0;
        if (tick % 6 == 5)
            std::printf("%5.2f  %8s  %7s\n", at.x(), on.has(0) ? "on" : "off", on.has(1) ? "on" : "off");
    }
    return blocked_ticks > 0 ? 0 : 1;
}

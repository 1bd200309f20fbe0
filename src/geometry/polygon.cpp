#include "hollow_probe/geometry/polygon.hpp"

#include <algorithm>
#include <map>
#include <numeric>
#include <queue>
#include <tuple>

#include "geometry/turn.hpp"
#include "hollow_probe/geometry/tolerances.hpp"

namespace hollow_probe {
namespace {

using Polygon = std::vector<Vec<2>>;

/// c lies within the box of a and b; for c in line with them, on the segment.
bool between(const Vec<2>& a, const Vec<2>& b, const Vec<2>& c) {
    return std::min(a.x(), b.x()) <= c.x() && c.x() <= std::max(a.x(), b.x()) &&
           std::min(a.y(), b.y()) <= c.y() && c.y() <= std::max(a.y(), b.y());
}

bool segments_meet(const Vec<2>& a, const Vec<2>& b, const Vec<2>& c, const Vec<2>& d) {
    const double abc = turn(a, b, c);
    const double abd = turn(a, b, d);
    const double cda = turn(c, d, a);
    const double cdb = turn(c, d, b);
    if (((abc > 0) != (abd > 0)) && ((cda > 0) != (cdb > 0)) && abc != 0 && abd != 0 && cda != 0 &&
        cdb != 0) {
        return true;
    }
    return (abc == 0 && between(a, b, c)) || (abd == 0 && between(a, b, d)) ||
           (cda == 0 && between(c, d, a)) || (cdb == 0 && between(c, d, b));
}

void refuse(std::size_t edge, std::size_t other) {
    throw InvalidInput("polygon crosses itself: edge " + std::to_string(std::min(edge, other) + 1) +
                       " meets edge " + std::to_string(std::max(edge, other) + 1) +
                       "; expected edges that meet only at shared corners");
}

/// Edges are held against those only whose widths have something in common.
void refuse_crossing_edges(const Polygon& corners) {
    const std::size_t count = corners.size();
    const auto end_of = [&](std::size_t edge) -> const Vec<2>& { return corners[(edge + 1) % count]; };
    const auto low = [&](std::size_t edge) { return std::min(corners[edge].x(), end_of(edge).x()); };
    const auto high = [&](std::size_t edge) { return std::max(corners[edge].x(), end_of(edge).x()); };
    const auto cross = [&](std::size_t i, std::size_t k) {
        const Vec<2>& a = corners[i];
        const Vec<2>& b = end_of(i);
        const Vec<2>& c = corners[k];
        const Vec<2>& d = end_of(k);
        if ((i + 1) % count != k && (k + 1) % count != i) return segments_meet(a, b, c, d);
        // Neighbours share a corner; they may not fold back over each other.
        const bool forward = (i + 1) % count == k;
        const Vec<2>& shared = forward ? b : a;
        const Vec<2>& from = forward ? a : b;
        const Vec<2>& to = forward ? d : c;
        return turn(from, shared, to) == 0 && (from - shared).dot(to - shared) > 0;
    };
    std::vector<std::size_t> by_low(count);
    std::iota(by_low.begin(), by_low.end(), std::size_t{0});
    std::sort(by_low.begin(), by_low.end(), [&](std::size_t a, std::size_t b) { return low(a) < low(b); });
    std::vector<std::size_t> open;
    for (const std::size_t edge : by_low) {
        std::erase_if(open, [&](std::size_t other) { return high(other) < low(edge); });
        for (const std::size_t other : open) {
            if (cross(std::min(edge, other), std::max(edge, other))) refuse(edge, other);
        }
        open.push_back(edge);
    }
}

/// One walk round, going back whenever a corner has gone: those before it may now be in line.
Polygon without_straight_corners(const Polygon& corners) {
    const auto goes = [](const Vec<2>& a, const Vec<2>& b, const Vec<2>& c) {
        return a == b || (turn(a, b, c) == 0 && (a - b).dot(c - b) < 0);
    };
    Polygon kept;
    for (const Vec<2>& corner : corners) {
        while (kept.size() >= 2 && goes(kept[kept.size() - 2], kept.back(), corner)) kept.pop_back();
        if (kept.empty() || kept.back() != corner) kept.push_back(corner);
    }
    // The same where the end meets the beginning.
    std::size_t first = 0;
    while (kept.size() - first >= 3) {
        if (goes(kept[kept.size() - 2], kept.back(), kept[first])) {
            kept.pop_back();
        } else if (goes(kept.back(), kept[first], kept[first + 1])) {
            ++first;
        } else {
            break;
        }
    }
    kept.erase(kept.begin(), kept.begin() + static_cast<std::ptrdiff_t>(first));
    return kept;
}

/// Corners of a polygon by number.
using Part = std::vector<std::size_t>;

/// Corners that turn inwards, in cells of a grid: only they can lie in an ear.
class InwardCorners {
  public:
    explicit InwardCorners(const Polygon& corners) : corners_(corners) {
        Bounds<2> box;
        for (const Vec<2>& corner : corners) box.grow(corner);
        low_ = box.low;
        side_ = static_cast<std::size_t>(std::ceil(std::sqrt(static_cast<double>(corners.size()))));
        cell_ = box.size().max(Vec<2>::constant(1e-300)) / static_cast<double>(side_);
        cells_.resize(side_ * side_);
    }
    void put(std::size_t corner) {
        const auto [x, y] = cell_of(corners_[corner]);
        cells_[y * side_ + x].push_back(corner);
    }
    /// Whether one lies in the triangle, its sides included, other than at its corners.
    [[nodiscard]] bool any_in(const Vec<2>& a, const Vec<2>& b, const Vec<2>& c,
                              const std::vector<bool>& gone) const {
        const auto [left, bottom] = cell_of(a.min(b).min(c));
        const auto [right, top] = cell_of(a.max(b).max(c));
        for (std::size_t y = bottom; y <= top; ++y) {
            for (std::size_t x = left; x <= right; ++x) {
                for (const std::size_t corner : cells_[y * side_ + x]) {
                    const Vec<2>& p = corners_[corner];
                    if (gone[corner] || p == a || p == b || p == c) continue;
                    if (turn(a, b, p) >= 0 && turn(b, c, p) >= 0 && turn(c, a, p) >= 0) return true;
                }
            }
        }
        return false;
    }

  private:
    [[nodiscard]] std::pair<std::size_t, std::size_t> cell_of(const Vec<2>& p) const {
        const auto along = [&](int axis) {
            const double cell = std::floor((p[axis] - low_[axis]) / cell_[axis]);
            return static_cast<std::size_t>(std::clamp(cell, 0.0, static_cast<double>(side_ - 1)));
        };
        return {along(0), along(1)};
    }

    const Polygon& corners_;
    Vec<2> low_;
    Vec<2> cell_;
    std::size_t side_ = 1;
    std::vector<std::vector<std::size_t>> cells_;
};

/// Cuts off one ear after the other, the plumpest first, so that no needles are cut. After a cut only its two
/// neighbours are looked at again.
class Ears {
  public:
    explicit Ears(const Polygon& corners)
        : corners_(corners),
          inward_(corners),
          before_(corners.size()),
          after_(corners.size()),
          version_(corners.size(), 0),
          gone_(corners.size(), false) {
        const std::size_t count = corners.size();
        for (std::size_t i = 0; i < count; ++i) {
            before_[i] = (i + count - 1) % count;
            after_[i] = (i + 1) % count;
            if (turn(corners[before_[i]], corners[i], corners[after_[i]]) <= 0) inward_.put(i);
        }
    }

    std::vector<Part> cut() {
        std::vector<Part> triangles;
        std::size_t left = corners_.size();
        for (std::size_t i = 0; i < left; ++i) look(i);
        while (left > 3) {
            if (waiting_.empty())
                throw InvalidInput("polygon cannot be cut into convex parts: it touches itself");
            const auto [plumpness, corner, version] = waiting_.top();
            waiting_.pop();
            if (gone_[corner] || version != version_[corner]) continue;
            if (plumpness < infinity) triangles.push_back({before_[corner], corner, after_[corner]});
            gone_[corner] = true;
            after_[before_[corner]] = after_[corner];
            before_[after_[corner]] = before_[corner];
            last_ = before_[corner];
            look(before_[corner]);
            look(after_[corner]);
            --left;
        }
        const std::size_t a = before_[last_];
        const std::size_t c = after_[last_];
        if (!is_straight(a, last_, c)) triangles.push_back({a, last_, c});
        return triangles;
    }

  private:
    [[nodiscard]] double longest(std::size_t a, std::size_t b, std::size_t c) const {
        return std::max({(corners_[b] - corners_[a]).norm(), (corners_[c] - corners_[b]).norm(),
                         (corners_[a] - corners_[c]).norm()});
    }
    [[nodiscard]] bool is_straight(std::size_t a, std::size_t b, std::size_t c) const {
        const double side = longest(a, b, c);
        return std::abs(turn(corners_[a], corners_[b], corners_[c])) <= tolerance::direction * side * side;
    }

    void look(std::size_t corner) {
        const std::size_t a = before_[corner];
        const std::size_t c = after_[corner];
        const std::size_t version = ++version_[corner];
        // Cutting may leave corners in line, as below the noses of a stair; they go without a triangle.
        if (is_straight(a, corner, c)) {
            waiting_.push({infinity, corner, version});
            return;
        }
        const double twice_area = turn(corners_[a], corners_[corner], corners_[c]);
        if (twice_area < 0.0 || inward_.any_in(corners_[a], corners_[corner], corners_[c], gone_)) return;
        const double side = longest(a, corner, c);
        waiting_.push({twice_area / (side * side), corner, version});
    }

    const Polygon& corners_;
    InwardCorners inward_;
    std::vector<std::size_t> before_;
    std::vector<std::size_t> after_;
    std::vector<std::size_t> version_;  // of what is known of a corner
    std::vector<bool> gone_;
    std::size_t last_ = 0;
    std::priority_queue<std::tuple<double, std::size_t, std::size_t>> waiting_;
};

/// Joins parts over the edges they share while the whole stays convex, and has no more corners than a piece
/// may have.
class Joining {
  public:
    Joining(const Polygon& corners, std::vector<Part> parts) : corners_(corners), parts_(std::move(parts)) {
        for (std::size_t part = 0; part < parts_.size(); ++part) own_edges(part);
    }

    std::vector<Polygon> run() {
        for (std::size_t part = 0; part < parts_.size(); ++part) {
            std::size_t without = 0;  // edges in a row that join nothing
            for (std::size_t edge = 0; without < parts_[part].size() && !parts_[part].empty();) {
                if (join(part, edge % parts_[part].size())) {
                    without = 0;
                } else {
                    ++without;
                    ++edge;
                }
            }
        }
        std::vector<Polygon> result;
        for (const Part& part : parts_) {
            if (part.empty()) continue;
            Polygon& polygon = result.emplace_back();
            for (const std::size_t corner : part) polygon.push_back(corners_[corner]);
        }
        return result;
    }

  private:
    static constexpr std::size_t most_corners = 64;

    void own_edges(std::size_t part) {
        const Part& p = parts_[part];
        for (std::size_t i = 0; i < p.size(); ++i) owner_[{p[i], p[(i + 1) % p.size()]}] = part;
    }

    bool join(std::size_t part, std::size_t edge) {
        Part& p = parts_[part];
        const std::size_t from = p[edge];
        const std::size_t to = p[(edge + 1) % p.size()];
        const auto found = owner_.find({to, from});
        if (found == owner_.end() || found->second == part) return false;
        const std::size_t other = found->second;
        const Part& q = parts_[other];
        if (p.size() + q.size() - 2 > most_corners) return false;
        const auto k = static_cast<std::size_t>(std::find(q.begin(), q.end(), to) - q.begin());
        Part whole;
        for (std::size_t m = 1; m <= p.size(); ++m) whole.push_back(p[(edge + m) % p.size()]);
        for (std::size_t m = 2; m < q.size(); ++m) whole.push_back(q[(k + m) % q.size()]);
        // Only where the two met can it turn inwards.
        const std::size_t count = whole.size();
        for (const std::size_t at : {std::size_t{0}, p.size() - 1}) {
            if (turn(corners_[whole[(at + count - 1) % count]], corners_[whole[at]],
                     corners_[whole[(at + 1) % count]]) <= 0)
                return false;
        }
        owner_.erase({from, to});
        owner_.erase({to, from});
        p = std::move(whole);
        parts_[other].clear();
        own_edges(part);
        return true;
    }

    const Polygon& corners_;
    std::vector<Part> parts_;
    std::map<std::pair<std::size_t, std::size_t>, std::size_t> owner_;  // of directed edges
};

}  // namespace

std::vector<Polygon> convex_parts(const Polygon& given) {
    for (const Vec<2>& corner : given) {
        if (!corner.is_finite()) throw InvalidInput("polygon has a number that is not finite");
    }
    Polygon corners = without_straight_corners(given);
    if (corners.size() < 3)
        throw InvalidInput("polygon needs at least three corners that are not in one line");
    refuse_crossing_edges(corners);
    double twice_area = 0.0;
    for (std::size_t i = 1; i + 1 < corners.size(); ++i)
        twice_area += turn(corners[0], corners[i], corners[i + 1]);
    if (twice_area == 0.0) throw InvalidInput("polygon has no area");
    if (twice_area < 0.0) std::reverse(corners.begin(), corners.end());
    return Joining(corners, Ears(corners).cut()).run();
}

}  // namespace hollow_probe

// The level of a figure: solids by layer, cut, lit and hidden.
#include "report/figure_drawer.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "hollow_probe/report/advice_text.hpp"
#include "hollow_probe/report/survey_text.hpp"
#include "hollow_probe/truth/answer.hpp"
#include "verify/signal_truths.hpp"

namespace hollow_probe {

template <int D>
void FigureDrawer<D>::fill_solid(const Outline& page, std::uint32_t layer, bool cut) {
    const LayerLook look = look_of(layer);
    canvas_.fill(page, look.fill);
    Bounds<2> box;
    for (const Vec<2>& p : page) box.grow(p);
    if (box.size().smallest() > 5.0) canvas_.hatch(page, look.hatch_angle, 7.0, darker(look.fill, 0.80));
    if (cut) canvas_.stroke(page, true, darker(look.fill, 0.45), 1.3);
}

template <int D>
void FigureDrawer<D>::draw_level_2d(const View<2>& view, bool overview) requires(D == 2) {
    const double width = overview ? 1.2 : 1.6;
    for (const Solid<2>& solid : level_.solids()) {
        const Color edge = darker(look_of(solid.layer).fill, 0.45);
        if (!solid.outline.empty()) {
            const Outline page = view.page(solid.outline);
            if (solid.closed) fill_solid(page, solid.layer, false);
            canvas_.stroke(page, solid.closed, edge, solid.closed ? width : 2.0 * width);
            continue;
        }
        for (std::uint32_t i = 0; i < solid.piece_count; ++i) {
            const Outline page =
                view.page(shadow<2>(view, level_.piece(solid.first_piece + i), Vec<2>::zero()));
            fill_solid(page, solid.layer, false);
            canvas_.stroke(page, true, edge, width);
        }
    }
    draw_one_ways(view, overview ? 7.0 : 18.0);
}

template <int D>
void FigureDrawer<D>::draw_arrow(const Vec<2>& middle, const Vec<2>& along, double size) {
    const Vec<2> tip = middle + size * along;
    const Vec<2> aside(-along.y(), along.x());
    canvas_.line(middle - size * along, tip, ink, 1.2);
    for (const double side : {-1.0, 1.0})
        canvas_.line(tip, tip - 0.6 * size * along + side * 0.5 * size * aside, ink, 1.2);
}

template <int D>
void FigureDrawer<D>::draw_one_ways(const View<2>& view, double size) requires(D == 2) {
    constexpr double apart = 60.0;  // pixels
    constexpr double most = 12.0;
    for (const Solid<2>& solid : level_.solids()) {
        if (!solid.one_way) continue;
        Bounds<2> box;
        for (std::uint32_t i = 0; i < solid.piece_count; ++i)
            box.grow(bounds_of(level_.piece(solid.first_piece + i)));
        const Vec<2> along = (view.at(box.center() + *solid.one_way) - view.at(box.center())).normalized();
        const Vec<2> across(-along.y(), along.x());
        const double width = view.scale * std::abs(box.size().x() * across.x()) +
                             view.scale * std::abs(box.size().y() * across.y());
        const double count = std::clamp(std::floor(width / apart), 1.0, most);
        for (double k = 0.0; k < count; ++k)
            draw_arrow(view.at(box.center()) + ((k + 0.5) / count - 0.5) * width * across, along, size);
    }
}

template <int D>
void FigureDrawer<D>::draw_level_3d(const View<3>& view, bool overview) requires(D == 3) {
    struct Beyond {
        double depth;
        std::uint32_t piece;
    };
    std::vector<Beyond> beyond;
    double deepest = view.cut;
    for (std::uint32_t i = 0; i < level_.piece_count(); ++i) {
        const HullView<3> hull = level_.piece(i);
        const auto [near, far] = extent_along(hull, view.away);
        if (far + hull.radius <= view.cut) continue;
        beyond.push_back({std::max(near, view.cut) + 1e-3 * far, i});
        deepest = std::max(deepest, far);
    }
    std::sort(beyond.begin(), beyond.end(), [](const Beyond& a, const Beyond& b) {
        return a.depth != b.depth ? a.depth > b.depth : a.piece < b.piece;
    });
    for (const Beyond& b : beyond) {
        const HullView<3> hull = level_.piece(b.piece);
        Outline flat;
        if (hull.radius > 0.0) {
            flat = shadow<3>(view, hull, Vec<3>::zero());
        } else {
            flat = section(view, hull);
            for (const Vec<3>& p : hull.points) {
                if (view.depth(p) >= view.cut) flat.push_back(view.flat(p));
            }
            flat = rounded_outline(std::move(flat), 0.0);
        }
        const double distance = (b.depth - view.cut) / std::max(deepest - view.cut, 1e-9);
        const Color fill =
            paler(look_of(level_.layer_of(b.piece)).fill, 0.95 - 0.5 * std::clamp(distance, 0.0, 1.0));
        const Outline page = view.page(flat);
        const Color line = darker(fill, 0.72);
        canvas_.fill(page, shaded(fill, facing(view, hull, b.piece)));
        const auto [near, far] = extent_along(hull, view.away);
        if (hull.radius == 0.0 && near >= view.cut) draw_faces(view, hull, fill);
        canvas_.stroke(page, true, line, overview ? 0.6 : 0.8);
    }
    for (std::uint32_t i = 0; i < level_.piece_count(); ++i) {
        const Outline cut = section(view, level_.piece(i));
        if (cut.empty()) continue;
        const Outline page = view.page(cut);
        if (page.size() > 2) {
            fill_solid(page, level_.layer_of(i), true);
        } else {
            canvas_.stroke(page, false, darker(look_of(level_.layer_of(i)).fill, 0.45), 1.6);
        }
    }
    for (const Beyond& b : beyond) {
        if (!is_hidden(view, b.piece)) continue;
        const Outline page = view.page(shadow<3>(view, level_.piece(b.piece), Vec<3>::zero()));
        canvas_.stroke(page, true, darker(look_of(level_.layer_of(b.piece)).fill, 0.5), 0.9, true);
        any_hidden_ = true;
    }
}

template <int D>
double FigureDrawer<D>::lit(const View<3>& view, const Vec<3>& n) requires(D == 3) {
    const Vec<3> light = (-0.75 * view.away + 0.55 * view.up - 0.35 * view.right).normalized();
    return 0.5 + 0.5 * n.dot(light);
}

template <int D>
double FigureDrawer<D>::facing(const View<3>& view, const HullView<3>& hull, std::uint32_t piece) const
    requires(D == 3) {
    if (!level_.pieces().is_facet(piece)) return 0.75;
    const Vec<3> n = facet_normal<3>(hull.points.data());
    return lit(view, n.dot(view.away) < 0.0 ? n : -n);
}

template <int D>
void FigureDrawer<D>::draw_faces(const View<3>& view, const HullView<3>& hull,
                                 const Color& fill) requires(D == 3) {
    for (std::size_t i = 0; i < hull.topology->facets.size() && i < hull.normals.size(); ++i) {
        if (hull.normals[i].dot(view.away) > -1e-6) continue;
        Outline face;
        for (const std::uint16_t corner : hull.topology->facets[i])
            face.push_back(view.flat(hull.points[corner]));
        const Outline page = view.page(face);
        canvas_.fill(page, shaded(fill, lit(view, hull.normals[i])));
        canvas_.stroke(page, true, darker(fill, 0.72), 0.5);
    }
}

template <int D>
bool FigureDrawer<D>::is_hidden(const View<3>& view, std::uint32_t piece) const requires(D == 3) {
    if (level_.pieces().is_facet(piece)) return false;
    const HullView<3> hull = level_.piece(piece);
    const auto [near, far] = extent_along(hull, view.away);
    if (near - hull.radius < view.cut) return false;
    const auto dot = RoundedHull<3>::ball(Vec<3>::zero(), 1.0).with_radius(0.0);
    const Vec<3> middle = bounds_of(hull).center();
    const auto seen_at = [&](const Vec<3>& p) {
        // A little inwards, or it would be what lies beside that hides it or not.
        const Vec<3> inwards = p + 0.02 * (middle - p);
        const double depth = view.depth(inwards) - view.cut;
        const LevelCast<3> ray{dot.view(),    inwards - depth * view.away,
                               view.away,     depth,
                               ~LayerSet{0},  IfInside::report,
                               Seams::passed, OneWay::always};
        const auto hit = first_hit<3>(level_, ray);
        return !hit || hit->piece == piece;
    };
    if (seen_at(middle)) return false;
    return std::none_of(hull.points.begin(), hull.points.end(), seen_at);
}

template void FigureDrawer<2>::fill_solid(const Outline&, std::uint32_t, bool);
template void FigureDrawer<3>::fill_solid(const Outline&, std::uint32_t, bool);
template void FigureDrawer<2>::draw_level_2d(const View<2>&, bool);
template void FigureDrawer<2>::draw_arrow(const Vec<2>&, const Vec<2>&, double);
template void FigureDrawer<3>::draw_arrow(const Vec<2>&, const Vec<2>&, double);
template void FigureDrawer<3>::draw_level_3d(const View<3>&, bool);

}  // namespace hollow_probe

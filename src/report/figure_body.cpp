// The body of a figure, and what its probes read.
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
void FigureDrawer<D>::draw_body(const View<D>& view, bool overview) {
    const Vec<D>& anchor = scene_.pose->anchor;
    const Outline body = view.page(shadow<D>(view, read_->mounted.body.view(), anchor));
    canvas_.fill(body, {1, 1, 1, overview ? 0.55 : 0.45});
    canvas_.stroke(body, true, body_color, overview ? 2.0 : 2.4);
    if (overview) {
        // A stranger must find the body at once: an arrow above it, or below it where there is no room
        // above.
        Bounds<2> box;
        for (const Vec<2>& p : body) box.grow(p);
        const bool above = box.low.y() - 30.0 > view.frame.y + 24.0;
        const double side = above ? -1.0 : 1.0;
        const Vec<2> tip(box.center().x(), (above ? box.low.y() : box.high.y()) + 5.0 * side);
        const double half = 0.5 * canvas_.text_width("body", 11, true) + 3.0;
        const double text_y = tip.y() + (above ? -12.0 : 21.0);
        canvas_.rectangle({tip.x() - half, text_y - 10.0, 2.0 * half, 13.0}, {1, 1, 1, 0.85});
        canvas_.fill({tip, tip + Vec<2>(-5, 9.0 * side), tip + Vec<2>(5, 9.0 * side)}, body_color);
        canvas_.text({tip.x(), text_y}, "body", 11, body_color, Align::middle, true);
    }
    const Vec<2> foot = view.at(anchor);
    const Vec<2> ahead = (view.at(anchor + scene_.pose->heading) - foot);
    if (!overview && ahead.norm() > 1e-6) {
        // Heading: an arrow from the body's side at shoulder height.
        Bounds<2> box;
        for (const Vec<2>& p : body) box.grow(p);
        const Vec<2> unit = ahead.normalized();
        const Vec<2> from(box.center().x() + unit.x() * 0.5 * box.size().x() + 4 * unit.x(),
                          box.low.y() + 0.2 * box.size().y());
        const Vec<2> to = from + 26 * unit;
        const Vec<2> side(-unit.y(), unit.x());
        canvas_.line(from, to, body_color, 1.6);
        canvas_.fill({to + 7 * unit, to + 4 * side, to - 4 * side}, body_color);
    }
    for (std::size_t i = 0; i < read_->mounted.probes.size(); ++i) {
        if (read_->mounted.probes[i].mounted) draw_probe(view, i, overview);
    }
    if (overview) return;
    canvas_.disc(foot, 3.0, body_color);
    draw_numbers(view);
}

template <int D>
void FigureDrawer<D>::draw_probe(const View<D>& view, std::size_t i, bool overview) {
    const MountedProbe<D>& probe = read_->mounted.probes[i];
    if (!read_->is_read(i)) return;
    if (probe.kind == ProbeKind::contact) {
        if (read_->readings[i].met && !overview)
            draw_hit(view, read_->readings[i].hit, read_->readings[i].on);
        return;
    }
    for (std::size_t line = 0; line < probe.lines.size(); ++line) {
        const auto hit = probe.is_line() ? read_->hit_of(i, line) : std::optional<LevelHit<D>>();
        draw_line(view, i, line, hit, overview);
    }
    if (!probe.is_line() && read_->readings[i].met && !overview)
        draw_hit(view, read_->readings[i].hit, read_->readings[i].on);
}

template <int D>
void FigureDrawer<D>::draw_line(const View<D>& view, std::size_t i, std::size_t line,
                                const std::optional<LevelHit<D>>& hit, bool overview) {
    const MountedProbe<D>& probe = read_->mounted.probes[i];
    const Vec<D> start = read_->start_of(i, line);
    const Vec<D>& along = probe.lines[line].along;
    const bool rests = probe.kind == ProbeKind::zone;
    const Vec<D> limit = rests ? start : start + probe.reach * along;
    const Vec<D> end = start + read_->end_of(i, line) * along;
    canvas_.line(view.at(start), view.at(end), probe_color, overview ? 1.0 : 1.5);
    if (overview) {
        canvas_.disc(view.at(start), 1.8, probe_color);
        return;
    }
    if (hit) canvas_.line(view.at(end), view.at(limit), probe_color, 1.0, true);
    if (probe.kind == ProbeKind::ray) {
        // The end of its reach: a bar across.
        const Vec<2> way = (view.at(limit) - view.at(start)).normalized();
        const Vec<2> side(-way.y(), way.x());
        canvas_.line(view.at(limit) - 6 * side, view.at(limit) + 6 * side, probe_color, 1.0);
    } else {
        // Of a shift the stance itself is where it starts.
        if (probe.kind == ProbeKind::cast) {
            canvas_.stroke(view.page(shadow<D>(view, probe.shape.view(), start)), true, probe_color, 1.0,
                           true);
        }
        const bool met = probe.is_line() ? hit.has_value() : read_->readings[i].met;
        canvas_.stroke(view.page(shadow<D>(view, probe.shape.view(), end)), true, probe_color, 1.5, !met);
    }
    if (hit) draw_hit(view, *hit, read_->line_on(i, line));
    canvas_.disc(view.at(start), 3.2, probe_color);
}

template <int D>
void FigureDrawer<D>::draw_hit(const View<D>& view, const LevelHit<D>& hit, bool on) {
    const Vec<2> at = view.at(hit.point);
    const Vec<2> normal = view.at(hit.point + hit.normal) - at;
    if (normal.norm() > 1e-6) canvas_.line(at, at + 22 * normal.normalized(), probe_color, 2.2);
    canvas_.disc(at, 2.6, on ? probe_color : Color{1, 1, 1});
    canvas_.ring(at, 2.6, probe_color, 1.2);
}

template <int D>
void FigureDrawer<D>::draw_numbers(const View<D>& view) {
    std::vector<Vec<2>> taken;
    for (std::size_t i = 0; i < read_->readings.size(); ++i) {
        const bool touches = read_->mounted.probes[i].kind == ProbeKind::contact;
        if (!read_->is_read(i) || (touches && !read_->readings[i].met)) continue;
        const std::string number = std::to_string(i + 1);
        const double width = 8.0 * static_cast<double>(number.size());
        const Vec<D> start = touches ? read_->readings[i].hit.point : read_->start_of(i, 0);
        Vec<2> at = view.at(start) + Vec<2>(7, -6);
        // Probes that start near one another share a line of numbers.
        const auto is_free = [&] {
            return std::none_of(taken.begin(), taken.end(), [&](const Vec<2>& other) {
                return std::abs(other.x() - at.x()) < width + 3.0 && std::abs(other.y() - at.y()) < 12.0;
            });
        };
        while (!is_free()) at.x() += 3.0;
        taken.push_back(at);
        // On a light ground of its own, so that no outline runs through it.
        canvas_.rectangle({at.x() - 2.0, at.y() - 11.0, width + 3.0, 13.0}, {1, 1, 1, 0.9});
        canvas_.text(at, number, 12, probe_color, Align::left, true);
    }
}

template void FigureDrawer<2>::draw_body(const View<2>&, bool);
template void FigureDrawer<3>::draw_body(const View<3>&, bool);

}  // namespace hollow_probe

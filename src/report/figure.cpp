// What a figure shows where, and how its views are fitted.
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
std::string FigureDrawer<D>::draw() {
    canvas_.text({20, 30}, canvas_.fitted(scene_.title, 18, page_width - 40, true), 18, ink, Align::left,
                 true);
    const double top = 46.0;
    // Without a body there is no close-up: all the page is the level's.
    const double height = read_ ? (D == 2 ? 340.0 : 372.0) : 660.0;
    double bottom = 0.0;
    if constexpr (D == 2) {
        View<2> view = side_view({20, top, page_width - 40, height});
        fit_level(view, 34.0);
        bottom = top + view.frame.height;
        draw_view(view, "side view" + whose_marks(), true);
    } else {
        View<3> plan = plan_view({20, top, 612, height});
        fit_level(plan, 34.0);
        draw_view(plan,
                  std::string(read_ ? "plan, cut at the body's middle" : "plan, cut at half its height") +
                      ", seen from above" + whose_marks(),
                  true);
        View<3> side = side_view({648, top, 612, height});
        fit_level(side, 34.0);
        bottom = top + height;
        draw_view(side, read_ ? "side elevation, cut at the body" : "side elevation, cut in the middle",
                  true);
    }
    const double lower = bottom + 34.0;
    if (read_) {
        View<D> close = side_view({20, lower, 560, page_height - lower - 26});
        fit_body(close);
        draw_view(close, D == 2 ? "close-up" : "close-up, cut at the body", false);
        draw_panel({604, lower, page_width - 624, page_height - lower - 26});
    } else {
        draw_panel({20, lower, page_width - 40, page_height - lower - 26});
    }
    return canvas_.finish();
}

template <int D>
std::string FigureDrawer<D>::whose_marks() const {
    if (!several_signals()) return "";
    if (scene_.finding == nullptr) return "; marks: the gravest verdict of any signal";
    return "; marks: verdicts of \"" + scene_.rig->signals[scene_.finding->signal].name + "\"";
}

template <int D>
Vec<D> FigureDrawer<D>::heading() const {
    if (scene_.pose) return scene_.pose->heading;
    if (!level_.starts().empty()) return level_.starts().front().heading;
    return level_heading<D>(std::abs(level_.up()[0]) < 0.9 ? Vec<D>::unit(0) : Vec<D>::unit(1), level_.up());
}

template <int D>
View<D> FigureDrawer<D>::side_view(const Rect& frame) const {
    View<D> view;
    view.frame = frame;
    view.up = level_.up();
    if constexpr (D == 2) {
        view.right = right_of(view.up);  // the body may face left; the level stays as it is
    } else {
        view.right = heading();
        view.away = view.up.cross(view.right);
        view.cut = view.away.dot(scene_.pose ? scene_.pose->anchor : level_.bounds().center());
    }
    return view;
}

template <int D>
View<3> FigureDrawer<D>::plan_view(const Rect& frame) const requires(D == 3) {
    View<3> view;
    view.frame = frame;
    const Vec<3>& up = level_.up();
    const Vec<3> reference = std::abs(up.x()) < 0.9 ? Vec<3>::unit(0) : Vec<3>::unit(1);
    view.right = level_heading<3>(reference, up);
    view.up = up.cross(view.right);
    view.away = -up;
    double height = up.dot(level_.bounds().center());
    if (scene_.pose && read_) {
        const auto [low, high] = extent_along(read_->mounted.body.view(), up);
        height = up.dot(scene_.pose->anchor) + 0.5 * (low + high);
    }
    view.cut = -height;
    return view;
}

template <int D>
void FigureDrawer<D>::fit_level(View<D>& view, double margin) const {
    Vec<2> low = Vec<2>::constant(infinity);
    Vec<2> high = -low;
    const auto include = [&](const Outline& outline) {
        for (const Vec<2>& p : outline) {
            low = low.min(p);
            high = high.max(p);
        }
    };
    for (std::uint32_t i = 0; i < level_.piece_count(); ++i)
        include(shadow<D>(view, level_.piece(i), Vec<D>::zero()));
    if (read_) include(shadow<D>(view, read_->mounted.body.view(), scene_.pose->anchor));
    view.fit(low, high, margin);
    // Flat levels do not need the whole height.
    if constexpr (D == 2) {
        const double needed = (high.y() - low.y()) * view.scale + 2.0 * margin;
        view.frame.height = std::clamp(needed, 160.0, view.frame.height);
    }
}

template <int D>
void FigureDrawer<D>::fit_body(View<D>& view) const {
    Bounds<2> box;
    const auto include = [&](const Outline& outline) {
        for (const Vec<2>& p : outline) box.grow(p);
    };
    const Vec<D>& anchor = scene_.pose->anchor;
    include(shadow<D>(view, read_->mounted.body.view(), anchor));
    const Bounds<2> body = box;
    const double size = body.size().largest();
    for (std::size_t i = 0; i < read_->mounted.probes.size(); ++i) {
        const MountedProbe<D>& probe = read_->mounted.probes[i];
        if (!read_->is_read(i) || probe.kind == ProbeKind::contact) continue;
        for (std::size_t line = 0; line < probe.lines.size(); ++line) {
            // Long rays do not shrink the body away.
            const double shown = std::min(read_->end_of(i, line), 1.5 * size);
            const Vec<D> start = read_->start_of(i, line);
            include(shadow<D>(view, probe.shape.view(), start));
            include(shadow<D>(view, probe.shape.view(), start + shown * probe.lines[line].along));
        }
    }
    view.fit(box.low - Vec<2>::constant(0.08 * size), box.high + Vec<2>::constant(0.08 * size), 24.0);
}

template <int D>
void FigureDrawer<D>::draw_view(const View<D>& view, const std::string& caption, bool overview) {
    canvas_.clipped(view.frame, [&] {
        if constexpr (D == 2) {
            draw_level_2d(view, overview);
        } else {
            draw_level_3d(view, overview);
        }
        if (scene_.survey) {
            // Small enough that neighbours on the grid stay apart, large enough to be told apart.
            const double room = 0.42 * scene_.survey->spacing * view.scale;
            draw_marks(view, overview ? std::clamp(room, 2.6, 4.0) : 6.0);
        }
        if (overview) {
            for (const SceneNote<D>& note : scene_.notes)
                draw_mark(canvas_, note.verdict, view.at(note.at), 4.0);
        }
        // The body's own name covers what leads to the others.
        if (overview && scene_.survey) label_findings(view);
        if (read_) draw_body(view, overview);
    });
    const Rect& f = view.frame;
    canvas_.stroke({{f.x, f.y}, {f.x + f.width, f.y}, {f.x + f.width, f.y + f.height}, {f.x, f.y + f.height}},
                   true, frame_color, 1.0);
    const double caption_width = canvas_.text_width(caption, 11) + 12;
    canvas_.rectangle({f.x + 1, f.y + 1, caption_width, 18}, {1, 1, 1, 0.85});
    canvas_.text({f.x + 7, f.y + 14}, caption, 11, faint);
    draw_scale(view);
}

template <int D>
void FigureDrawer<D>::draw_scale(const View<D>& view) {
    if (!std::isfinite(90.0 / view.scale)) return;  // a level without a size that could be shown
    const Rect& f = view.frame;
    // Ticks below the frame, along the page's right, where that is an axis of the level.
    int axis = -1;
    for (int i = 0; i < D; ++i) {
        if (std::abs(std::abs(view.right[i]) - 1.0) < 1e-9) axis = i;
    }
    const double y = f.y + f.height;
    const double step = round_step(90.0 / view.scale);
    if (axis >= 0) {
        const double sign = view.right[axis];
        const double middle = view.flat(view.center).x();
        const double half = 0.5 * f.width / view.scale;
        const double first = std::ceil((middle - half) / step) * step;
        for (int i = 0; i < 40 && first + i * step <= middle + half; ++i) {
            const double s = first + i * step;
            const double x = f.x + 0.5 * f.width + view.scale * (s - middle);
            if (x < f.x + 14 || x > f.x + f.width - 40) continue;
            canvas_.line({x, y}, {x, y + 4}, faint, 1.0);
            canvas_.text({x, y + 16}, plain(sign * s), 10, faint, Align::middle);
        }
        canvas_.text({f.x + f.width, y + 16}, std::string(1, "xyz"[axis]), 10, faint, Align::right);
    }
    const double length = step * view.scale;
    const Vec<2> a(f.x + f.width - 14 - length, f.y + 20);
    const Vec<2> b(f.x + f.width - 14, f.y + 20);
    canvas_.rectangle({a.x() - 6, f.y + 3, length + 12, 24}, {1, 1, 1, 0.85});
    canvas_.line(a, b, ink, 2.0);
    canvas_.text({0.5 * (a.x() + b.x()), f.y + 15}, plain(step), 10, ink, Align::middle);
}

template <int D>
std::string draw_figure(const Scene<D>& scene, const std::string& file_name) {
    return FigureDrawer<D>(scene, kind_of_image(file_name)).draw();
}

template <int D>
std::string survey_figure(const Level<D>& level, const Rig<D>& rig, const Survey<D>& survey,
                          const std::string& level_name, const std::string& rig_name,
                          const std::string& file_name) {
    Scene<D> scene;
    std::optional<Level<D>> moved;
    scene.level = &level;
    scene.rig = &rig;
    scene.survey = &survey;
    scene.title = rig_name + " on " + level_name;
    if (!survey.findings.empty()) {
        scene.finding = &survey.findings.front();
        const SurveyPose<D>& worst = scene.finding->worst;
        const Facing<D>& facing = survey.facings[worst.facing];
        scene.pose = facing.pose(worst.anchor);
        if (level.has_paths()) scene.level = &moved.emplace(level.at(facing.seconds));
    } else if (!level.starts().empty()) {
        scene.pose = Pose<D>{level.starts().front().at, level.starts().front().heading};
    }
    return draw_figure<D>(scene, file_name);
}

template std::string survey_figure<2>(const Level<2>&, const Rig<2>&, const Survey<2>&, const std::string&,
                                      const std::string&, const std::string&);
template std::string survey_figure<3>(const Level<3>&, const Rig<3>&, const Survey<3>&, const std::string&,
                                      const std::string&, const std::string&);
template std::string draw_figure<2>(const Scene<2>&, const std::string&);
template std::string draw_figure<3>(const Scene<3>&, const std::string&);

}  // namespace hollow_probe

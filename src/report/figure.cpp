#include "hollow_probe/report/figure.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <map>
#include <set>

#include "hollow_probe/report/advice_text.hpp"
#include "hollow_probe/report/survey_text.hpp"
#include "hollow_probe/truth/answer.hpp"
#include "report/look.hpp"
#include "report/pose_reading.hpp"
#include "report/projection.hpp"
#include "verify/signal_truths.hpp"

namespace hollow_probe {
namespace {

std::string words_for(CauseKind cause) {
    std::string words = name_of(cause);
    std::replace(words.begin(), words.end(), '_', ' ');
    return words;
}

int weight(Verdict verdict) {
    constexpr std::array<int, verdict_count> weights = {1, 4, 3, 0, 2, 1};
    return weights[static_cast<std::size_t>(verdict)];
}

template <int D>
class FigureDrawer {
  public:
    FigureDrawer(const Scene<D>& scene, ImageKind kind)
        : scene_(scene), level_(*scene.level), canvas_(kind, page_width, page_height) {
        if (!scene.pose || !scene.rig) return;
        read_.emplace(level_, *scene.rig, *scene.pose);
        if (scene.finding != nullptr) read_->say_as(scene.finding->worst);
    }

    std::string draw() {
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

  private:
    bool several_signals() const { return scene_.survey != nullptr && scene_.survey->signals.size() > 1; }

    std::string whose_marks() const {
        if (!several_signals()) return "";
        if (scene_.finding == nullptr) return "; marks: the gravest verdict of any signal";
        return "; marks: verdicts of \"" + scene_.rig->signals[scene_.finding->signal].name + "\"";
    }

    Vec<D> heading() const {
        if (scene_.pose) return scene_.pose->heading;
        if (!level_.starts().empty()) return level_.starts().front().heading;
        return level_heading<D>(std::abs(level_.up()[0]) < 0.9 ? Vec<D>::Unit(0) : Vec<D>::Unit(1),
                                level_.up());
    }

    View<D> side_view(const Rect& frame) const {
        View<D> view;
        view.frame = frame;
        view.up = level_.up();
        if constexpr (D == 2) {
            view.right =
                Vec<2>(view.up.y(), -view.up.x());  // the body may face left; the level stays as it is
        } else {
            view.right = heading();
            view.away = view.up.cross(view.right);
            view.cut = view.away.dot(scene_.pose ? scene_.pose->anchor : level_.bounds().center());
        }
        return view;
    }

    View<3> plan_view(const Rect& frame) const requires(D == 3) {
        View<3> view;
        view.frame = frame;
        const Vec<3>& up = level_.up();
        const Vec<3> reference = std::abs(up.x()) < 0.9 ? Vec<3>::Unit(0) : Vec<3>::Unit(1);
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

    void fit_level(View<D>& view, double margin) const {
        Vec<2> low = Vec<2>::Constant(infinity);
        Vec<2> high = -low;
        const auto include = [&](const Outline& outline) {
            for (const Vec<2>& p : outline) {
                low = low.cwiseMin(p);
                high = high.cwiseMax(p);
            }
        };
        for (std::uint32_t i = 0; i < level_.piece_count(); ++i)
            include(shadow<D>(view, level_.piece(i), Vec<D>::Zero()));
        if (read_) include(shadow<D>(view, read_->mounted.body.view(), scene_.pose->anchor));
        view.fit(low, high, margin);
        // Flat levels do not need the whole height.
        if constexpr (D == 2) {
            const double needed = (high.y() - low.y()) * view.scale + 2.0 * margin;
            view.frame.height = std::clamp(needed, 160.0, view.frame.height);
        }
    }

    void fit_body(View<D>& view) const {
        Bounds<2> box;
        const auto include = [&](const Outline& outline) {
            for (const Vec<2>& p : outline) box.grow(p);
        };
        const Vec<D>& anchor = scene_.pose->anchor;
        include(shadow<D>(view, read_->mounted.body.view(), anchor));
        const Bounds<2> body = box;
        const double size = body.size().maxCoeff();
        for (std::size_t i = 0; i < read_->mounted.probes.size(); ++i) {
            const MountedProbe<D>& probe = read_->mounted.probes[i];
            if (!probe.mounted) continue;
            if (probe.kind == ProbeKind::contact) continue;
            for (std::size_t line = 0; line < probe.lines.size(); ++line) {
                // Long rays do not shrink the body away.
                const double shown = std::min(read_->end_of(i, line), 1.5 * size);
                const Vec<D> start = read_->start_of(i, line);
                include(shadow<D>(view, probe.shape.view(), start));
                include(shadow<D>(view, probe.shape.view(), Vec<D>(start + shown * probe.lines[line].along)));
            }
        }
        view.fit(box.low - Vec<2>::Constant(0.08 * size), box.high + Vec<2>::Constant(0.08 * size), 24.0);
    }

    void draw_view(const View<D>& view, const std::string& caption, bool overview) {
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
            // The body's own name covers what leads to the others.
            if (overview && scene_.survey) label_findings(view);
            if (read_) draw_body(view, overview);
        });
        const Rect& f = view.frame;
        canvas_.stroke(
            {{f.x, f.y}, {f.x + f.width, f.y}, {f.x + f.width, f.y + f.height}, {f.x, f.y + f.height}}, true,
            frame_color, 1.0);
        const double caption_width = canvas_.text_width(caption, 11) + 12;
        canvas_.rectangle({f.x + 1, f.y + 1, caption_width, 18}, {1, 1, 1, 0.85});
        canvas_.text({f.x + 7, f.y + 14}, caption, 11, faint);
        draw_scale(view);
    }

    void draw_scale(const View<D>& view) {
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

    void fill_solid(const Outline& page, std::uint32_t layer, bool cut) {
        const LayerLook look = look_of(layer);
        canvas_.fill(page, look.fill);
        Bounds<2> box;
        for (const Vec<2>& p : page) box.grow(p);
        if (box.size().minCoeff() > 5.0) canvas_.hatch(page, look.hatch_angle, 7.0, darker(look.fill, 0.80));
        if (cut) canvas_.stroke(page, true, darker(look.fill, 0.45), 1.3);
    }

    void draw_level_2d(const View<2>& view, bool overview) requires(D == 2) {
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
                    view.page(shadow<2>(view, level_.piece(solid.first_piece + i), Vec<2>::Zero()));
                fill_solid(page, solid.layer, false);
                canvas_.stroke(page, true, edge, width);
            }
        }
    }

    void draw_level_3d(const View<3>& view, bool overview) requires(D == 3) {
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
                flat = shadow<3>(view, hull, Vec<3>::Zero());
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
            const Outline page = view.page(shadow<3>(view, level_.piece(b.piece), Vec<3>::Zero()));
            canvas_.stroke(page, true, darker(look_of(level_.layer_of(b.piece)).fill, 0.5), 0.9, true);
            any_hidden_ = true;
        }
    }

    /// How much light a surface with outward normal n gets, 0 to 1: from above the beholder's left shoulder.
    static double lit(const View<3>& view, const Vec<3>& n) requires(D == 3) {
        const Vec<3> light = (-0.75 * view.away + 0.55 * view.up - 0.35 * view.right).normalized();
        return 0.5 + 0.5 * n.dot(light);
    }

    static Color shaded(const Color& fill, double light) { return darker(fill, 0.76 + 0.26 * light); }

    /// The light on the side of a facet that is seen; of anything round, or of several sides, a middling one.
    double facing(const View<3>& view, const HullView<3>& hull, std::uint32_t piece) const requires(D == 3) {
        if (!level_.pieces().is_facet(piece)) return 0.75;
        const Vec<3> n = facet_normals<3>(hull.points.data()).at[0];
        return lit(view, n.dot(view.away) < 0.0 ? n : Vec<3>(-n));
    }

    /// The sides of a polyhedron that face the beholder, each in its own light.
    void draw_faces(const View<3>& view, const HullView<3>& hull, const Color& fill) requires(D == 3) {
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

    /// Whether a convex piece beyond the cut cannot be seen: nothing of what lies between lets its corners
    /// and its middle through. Not asked of meshes, whose triangles hide each other by the thousand.
    bool is_hidden(const View<3>& view, std::uint32_t piece) const requires(D == 3) {
        if (level_.pieces().is_facet(piece)) return false;
        const HullView<3> hull = level_.piece(piece);
        const auto [near, far] = extent_along(hull, view.away);
        if (near - hull.radius < view.cut) return false;
        const auto dot = RoundedHull<3>::ball(Vec<3>::Zero(), 1.0).with_radius(0.0);
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

    /// Of several signals, the marks are those of the finding shown: of all together nothing could be read.
    Verdict worst_of(const SurveyPose<D>& pose) const {
        if (scene_.finding != nullptr) return pose.verdict(scene_.finding->signal);
        Verdict worst = Verdict::true_clear;
        for (std::size_t signal = 0; signal < scene_.survey->signals.size(); ++signal) {
            const Verdict verdict = pose.verdict(signal);
            if (weight(verdict) > weight(worst)) worst = verdict;
        }
        return worst;
    }

    /// An elevation shows the poses in its plane, any other view all of them.
    bool is_in_view(const View<D>& view, const SurveyPose<D>& pose) const {
        const bool elevation = D == 3 && view.away.dot(level_.up()) > -0.5;
        return !elevation || std::abs(view.depth(pose.anchor) - view.cut) <= 0.75 * scene_.survey->spacing;
    }

    /// One mark a few pixels, the gravest of those that fall there, so that wrong ones are never painted
    /// over.
    void draw_marks(const View<D>& view, double size) {
        struct Mark {
            Verdict verdict = Verdict::true_clear;
            Vec<2> at = Vec<2>::Zero();
        };
        std::map<std::pair<int, int>, Mark> cells;
        const double cell = 1.6 * size;
        const Rect& f = view.frame;
        for (const SurveyPose<D>& pose : scene_.survey->poses) {
            if (!is_in_view(view, pose)) continue;
            const Vec<2> at = view.at(pose.anchor);
            if (at.x() < f.x || at.x() > f.x + f.width || at.y() < f.y || at.y() > f.y + f.height) continue;
            const std::pair key(static_cast<int>(at.x() / cell), static_cast<int>(at.y() / cell));
            const Mark mark{worst_of(pose), at};
            const auto [place, fresh] = cells.try_emplace(key, mark);
            if (!fresh && weight(mark.verdict) > weight(place->second.verdict)) place->second = mark;
        }
        for (const Verdict layer : {Verdict::true_clear, Verdict::true_contact, Verdict::forgiven,
                                    Verdict::undecided, Verdict::false_contact, Verdict::missed_contact}) {
            for (const auto& [key, mark] : cells) {
                if (mark.verdict != layer) continue;
                shown_verdicts_.insert(layer);
                draw_mark(canvas_, layer, mark.at, size);
            }
        }
    }

    /// Names of findings, the worst first, each beside its place; where there is no room for one, none.
    void label_findings(const View<D>& view) {
        constexpr std::size_t most = 16;
        std::vector<Rect> taken;
        if (read_) {
            Bounds<2> box;
            for (const Vec<2>& p :
                 view.page(shadow<D>(view, read_->mounted.body.view(), scene_.pose->anchor)))
                box.grow(p);
            // The body, and its name above or below.
            taken.push_back(
                {box.low.x() - 22.0, box.low.y() - 30.0, box.size().x() + 44.0, box.size().y() + 60.0});
        }
        const auto collides = [&](const Rect& a) {
            return std::any_of(taken.begin(), taken.end(), [&](const Rect& b) {
                return a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height &&
                       b.y < a.y + a.height;
            });
        };
        std::size_t count = 0;
        for (const Finding<D>& finding : scene_.survey->findings) {
            if (++count > most) return;
            if (!is_in_view(view, finding.worst)) continue;
            const Vec<2> at = view.at(finding.worst.anchor);
            const double width = canvas_.text_width(finding.id, 9.5) + 6.0;
            for (const double away : {-16.0, -30.0, 20.0, 34.0, -44.0, 48.0}) {
                const Rect& f = view.frame;
                const double left = std::clamp(at.x() - 0.5 * width, f.x + 3.0, f.x + f.width - width - 3.0);
                const Rect box{left, at.y() + away - 7.0, width, 13.0};
                const bool inside = at.x() > f.x && at.x() < f.x + f.width && box.y > f.y + 20.0 &&
                                    box.y + box.height < f.y + f.height - 2.0;
                if (!inside || collides(box)) continue;
                taken.push_back(box);
                canvas_.line({at.x(), at.y() + (away < 0.0 ? -5.0 : 5.0)},
                             {at.x(), at.y() + away + (away < 0.0 ? 6.0 : -7.0)}, faint, 0.8);
                canvas_.rectangle(box, {1, 1, 1, 0.9});
                canvas_.text({box.x + 0.5 * width, box.y + 10.0}, finding.id, 9.5, ink, Align::middle);
                break;
            }
        }
    }

    void draw_body(const View<D>& view, bool overview) {
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
        if (!overview) {
            canvas_.disc(foot, 3.0, body_color);
        }
    }

    void draw_probe(const View<D>& view, std::size_t i, bool overview) {
        const MountedProbe<D>& probe = read_->mounted.probes[i];
        if (!probe.aimed) return;
        if (probe.kind == ProbeKind::contact) {
            if (read_->readings[i].met && !overview) {
                draw_hit(view, read_->readings[i].hit, read_->readings[i].on);
                draw_number(view, i, read_->readings[i].hit.point);
            }
            return;
        }
        for (std::size_t line = 0; line < probe.lines.size(); ++line) {
            const auto hit = probe.is_line() ? read_->hit_of(i, line) : std::optional<LevelHit<D>>();
            draw_line(view, i, line, hit, overview);
        }
        if (!probe.is_line() && read_->readings[i].met && !overview)
            draw_hit(view, read_->readings[i].hit, read_->readings[i].on);
        if (!overview) draw_number(view, i, read_->start_of(i, 0));
    }

    void draw_line(const View<D>& view, std::size_t i, std::size_t line,
                   const std::optional<LevelHit<D>>& hit, bool overview) {
        const MountedProbe<D>& probe = read_->mounted.probes[i];
        const Vec<D> start = read_->start_of(i, line);
        const Vec<D>& along = probe.lines[line].along;
        const bool rests = probe.kind == ProbeKind::zone;
        const Vec<D> limit = rests ? start : Vec<D>(start + probe.reach * along);
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

    void draw_hit(const View<D>& view, const LevelHit<D>& hit, bool on) {
        const Vec<2> at = view.at(hit.point);
        const Vec<2> normal = view.at(Vec<D>(hit.point + hit.normal)) - at;
        if (normal.norm() > 1e-6) canvas_.line(at, at + 22 * normal.normalized(), probe_color, 2.2);
        canvas_.disc(at, 2.6, on ? probe_color : Color{1, 1, 1});
        canvas_.ring(at, 2.6, probe_color, 1.2);
    }

    void draw_number(const View<D>& view, std::size_t i, const Vec<D>& start) {
        // Probes that start at one place share a line of numbers.
        int before = 0;
        for (std::size_t k = 0; k < i; ++k) {
            const MountedProbe<D>& other = read_->mounted.probes[k];
            if (other.mounted && other.kind != ProbeKind::contact &&
                (view.at(read_->start_of(k, 0)) - view.at(start)).norm() < 12)
                ++before;
        }
        const std::string number = std::to_string(i + 1);
        const Vec<2> at = view.at(start) + Vec<2>(7 + 11 * before, -6);
        // On a light ground of its own, so that no outline runs through it.
        canvas_.disc(at + Vec<2>(4.0 * static_cast<double>(number.size()), -4.5), 7.0, Color{1, 1, 1});
        canvas_.text(at, number, 12, probe_color, Align::left, true);
    }

    void draw_panel(const Rect& rect) {
        double y = rect.y + 12;
        const double limit = rect.y + rect.height - legend_height(rect.width);
        const auto say = [&](const std::string& text, double size, Color color, double indent = 0.0) {
            for (const std::string& line : canvas_.lines(text, size, rect.width - indent)) {
                if (y > limit) return;
                canvas_.text({rect.x + indent, y}, line, size, color);
                y += size + 5;
            }
        };
        if (scene_.finding) {
            draw_mark(canvas_, scene_.finding->verdict, {rect.x + 7, y - 5}, 6.0);
            canvas_.text({rect.x + 22, y}, "Worst finding, " + scene_.finding->id, 13, ink, Align::left,
                         true);
            y += 19;
            say(finding_sentence<D>(*scene_.rig, *scene_.finding), 12.5, ink);
            y += 6;
        }
        if (read_) {
            say_pose(say);
            y += 4;
            for (std::size_t i = 0; i < read_->readings.size(); ++i) {
                if (y > limit) break;
                canvas_.text({rect.x, y}, std::to_string(i + 1), 12.5, probe_color, Align::left, true);
                say(read_->words(i), 12.5, ink, 18);
            }
            y += 4;
            say_signals(rect, y, limit);
        }
        if (scene_.survey && scene_.survey->findings.empty() && !scene_.survey->signals.empty()) {
            y += 8;
            say("No finding: every signal agrees with truth at every pose judged (" +
                    std::to_string(scene_.survey->judged) + ").",
                12.5, ink);
        }
        if (scene_.survey) list_fixes(rect, y, say);
        if (scene_.survey && scene_.survey->findings.size() > 1) list_findings(rect, y + 8, limit);
        draw_legend(rect);
    }

    /// What to change, the best few.
    template <class Say>
    void list_fixes(const Rect& rect, double& y, Say say) {
        constexpr std::size_t most = 3;
        const auto& survey = *scene_.survey;
        if (survey.fixes.empty()) return;
        y += 6;
        canvas_.text({rect.x, y}, "What to change, best first", 12.5, ink, Align::left, true);
        y += 18;
        for (std::size_t i = 0; i < std::min(most, survey.fixes.size()); ++i) {
            const Fix<D>& fix = survey.fixes[i];
            say(fmt::format("{}  {}{}", i + 1, change_text(fix.change),
                            fix.after ? ": " + promise_text(survey.wrong, *fix.after) : std::string()),
                12, ink);
        }
    }

    /// The other findings, a line each, as many as there is room for.
    void list_findings(const Rect& rect, double y, double limit) {
        const auto& findings = scene_.survey->findings;
        if (y + 30 > limit) return;
        canvas_.text({rect.x, y}, fmt::format("All {} findings, worst first", findings.size()), 12.5, ink,
                     Align::left, true);
        y += 20;
        for (std::size_t i = 0; i < findings.size(); ++i) {
            if (y + 17 > limit && i + 1 < findings.size()) {
                canvas_.text({rect.x + 22, y}, fmt::format("… and {} more", findings.size() - i), 12, faint);
                return;
            }
            const Finding<D>& finding = findings[i];
            draw_mark(canvas_, finding.verdict, {rect.x + 7, y - 4}, 5.0);
            std::string text = fmt::format("{}  {} poses  {}", finding.id, finding.count,
                                           words_for(finding.causes.front().cause));
            if (!finding.solid.empty()) text += "  \"" + finding.solid + "\"";
            if (several_signals()) text += ", " + scene_.rig->signals[finding.signal].name;
            canvas_.text({rect.x + 22, y}, canvas_.fitted(text, 12, rect.width - 22), 12, ink);
            y += 17;
        }
    }

    template <class Say>
    void say_pose(Say say) {
        const Pose<D>& pose = *scene_.pose;
        std::string text = "Body at (";
        for (int axis = 0; axis < D; ++axis) text += (axis > 0 ? ", " : "") + plain(pose.anchor[axis]);
        text += "), heading (";
        for (int axis = 0; axis < D; ++axis) text += (axis > 0 ? ", " : "") + plain(pose.heading[axis]);
        text += "), " + scene_.rig->body.stances[pose.stance].name;
        if (scene_.finding != nullptr)
            text +=
                state_words<D>(scene_.survey->facings, scene_.survey->facings[scene_.finding->worst.facing]);
        say(text, 12.5, body_color);
    }

    void say_signals(const Rect& rect, double& y, double limit) {
        const PlacedBody<D> body = placed_body<D>(read_->mounted, scene_.pose->anchor);
        const bool clips = clip<D>(level_, body, scene_.rig->intent).on;
        for (std::size_t i = 0; i < scene_.rig->signals.size() && y <= limit; ++i) {
            const Signal& signal = scene_.rig->signals[i];
            if (!signal.claims) continue;
            const Pose<D>& pose = *scene_.pose;
            const auto question = question_of<D>(*scene_.rig, read_->mounted, i,
                                                 {pose.heading, pose.velocity, pose.drive, pose.grounded},
                                                 pose.anchor, level_.up());
            const TruthAnswer<D> truth = answer<D>(*signal.claims, level_, question, scene_.rig->intent,
                                                   level_.bounds().size().norm());
            const bool on = read_->signals_on >> i & 1U;
            SurveyPose<D> judged;
            judged.signals_on = on ? 1U : 0U;
            judged.truths_on = truth.on ? 1U : 0U;
            judged.undecided = truth.decided ? 0U : 1U;
            const Verdict verdict = judged.verdict(0);
            draw_mark(canvas_, verdict, {rect.x + 7, y - 4}, 6.0);
            const std::string text =
                fmt::format("{} is {}; truth: {}{} — {}", signal.name, on ? "on" : "off",
                            truth.on ? "" : "no ", name_of(signal.claims), words_for(verdict));
            canvas_.text({rect.x + 22, y}, canvas_.fitted(text, 13, rect.width - 22, true), 13, ink,
                         Align::left, true);
            y += 18;
            if (y > limit) return;
            std::string margin =
                signal.claims == Claim::ground
                    ? truth.on ? "Truth would flip if touch shrank by " + plain(truth.margin.distance) +
                                     ", or steepest_footing by " + plain(truth.margin.degrees) + "°."
                               : off_words(truth.margin)
                    : margin_words(truth.margin);
            if (clips) margin += " The body clips here: the survey leaves such poses out.";
            canvas_.text({rect.x + 22, y}, canvas_.fitted(margin, 12, rect.width - 22), 12, faint);
            y += 19;
        }
    }

    static std::string margin_words(const Margin& margin) {
        std::string by;
        if (std::isfinite(margin.distance)) by = plain(margin.distance);
        if (std::isfinite(margin.degrees)) by += (by.empty() ? "" : ", or ") + plain(margin.degrees) + "°";
        return by.empty() ? "No small change would flip truth." : "Truth would flip by " + by + ".";
    }

    static std::string off_words(const Margin& margin) {
        if (std::isfinite(margin.degrees))
            return "What is touched is " + plain(margin.degrees) + "° too steep to be footing.";
        if (std::isfinite(margin.distance))
            return "The nearest footing is " + plain(margin.distance) + " beyond touch.";
        return "There is no footing below.";
    }

    double legend_height(double width) const { return width > 900.0 ? 26.0 : 46.0; }

    /// Only what is shown: layers of the level, marks that were drawn.
    void draw_legend(const Rect& rect) {
        double x = rect.x;
        double y = rect.y + rect.height - legend_height(rect.width) + 20;
        const auto room_for = [&](double width) {
            if (x + width > rect.x + rect.width && x > rect.x) {
                x = rect.x;
                y += 20;
            }
        };
        std::set<std::uint32_t> layers;
        for (const Solid<D>& solid : level_.solids()) layers.insert(solid.layer);
        for (const std::uint32_t layer : layers) {
            const std::string name = canvas_.fitted(level_.layers()[layer], 11.5, 130);
            const double width = 28 + canvas_.text_width(name, 11.5) + 16;
            room_for(width);
            const Outline swatch = {{x, y - 10}, {x + 20, y - 10}, {x + 20, y + 2}, {x, y + 2}};
            fill_solid(swatch, layer, true);
            canvas_.text({x + 26, y}, name, 11.5, ink);
            x += width;
        }
        if (any_hidden_) {
            const std::string words = "hidden";
            const double width = 28 + canvas_.text_width(words, 11.5) + 16;
            room_for(width);
            canvas_.stroke({{x, y - 10}, {x + 20, y - 10}, {x + 20, y + 2}, {x, y + 2}}, true, faint, 0.9,
                           true);
            canvas_.text({x + 26, y}, words, 11.5, ink);
            x += width;
        }
        for (const Verdict verdict : {Verdict::missed_contact, Verdict::false_contact, Verdict::undecided,
                                      Verdict::forgiven, Verdict::true_contact, Verdict::true_clear}) {
            if (!shown_verdicts_.contains(verdict)) continue;
            const double width = 20 + canvas_.text_width(words_for(verdict), 11.5) + 16;
            room_for(width);
            draw_mark(canvas_, verdict, {x + 7, y - 4}, 5.0);
            canvas_.text({x + 18, y}, words_for(verdict), 11.5, ink);
            x += width;
        }
    }

    const Scene<D>& scene_;
    const Level<D>& level_;
    Canvas canvas_;
    std::optional<PoseReading<D>> read_;
    std::set<Verdict> shown_verdicts_;
    bool any_hidden_ = false;
};

}  // namespace

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

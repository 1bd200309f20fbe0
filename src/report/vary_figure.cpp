#include "hollow_probe/report/vary_figure.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "hollow_probe/report/survey_text.hpp"
#include "report/look.hpp"

namespace hollow_probe {
namespace {

constexpr Rect pane{90.0, 90.0, page_width - 130.0, page_height - 170.0};

class VaryDrawer {
  public:
    VaryDrawer(const std::string& title, const std::vector<VaryMapRow>& map, ImageKind kind)
        : map_(map), canvas_(kind, page_width, page_height) {
        canvas_.rectangle({0, 0, page_width, page_height}, {1, 1, 1});
        canvas_.text({24, 32}, canvas_.fitted(title, 18, 760, true), 18, ink, Align::left, true);
        for (const VaryMapRow& row : map_) {
            for (const VaryPoint& point : row.curve.points) {
                low_ = std::min(low_, point.value);
                high_ = std::max(high_, point.value);
                most_ = std::max({most_, point.wrong.missed, point.wrong.falsely});
                most_whole_ = std::max(most_whole_, point.wrong.whole());
            }
        }
        if (!(high_ > low_)) high_ = low_ + 1.0;
        if (most_ <= 0.0) most_ = 1.0;
    }

    std::string draw() {
        if (map_.size() == 1 && !map_.front().with) {
            draw_curve(map_.front().curve);
        } else {
            draw_map();
        }
        values_below(map_.front().curve.setting);
        return canvas_.finish();
    }

  private:
    [[nodiscard]] double x_of(double value) const {
        return pane.x + pane.width * (value - low_) / (high_ - low_);
    }
    [[nodiscard]] double y_of(double measure) const { return pane.y + pane.height * (1.0 - measure / most_); }

    void values_below(const std::string& setting) {
        const double step = round_step((high_ - low_) / 12.0);
        const double y = pane.y + pane.height;
        for (double value = std::ceil(low_ / step - 1e-9) * step; value <= high_ + 1e-9 * step;
             value += step) {
            canvas_.line({x_of(value), y}, {x_of(value), y + 5.0}, frame_color, 1.0);
            canvas_.text({x_of(value), y + 20.0}, plain(value), 12, faint, Align::middle);
        }
        canvas_.text({pane.x + 0.5 * pane.width, y + 44.0}, setting, 14, ink, Align::middle);
    }

    void draw_curve(const VaryCurve& curve) {
        for (const Stretch& one : curve.right) {
            const double x = x_of(one.from);
            const double width = std::max(2.0, x_of(one.to) - x);
            canvas_.rectangle({x, pane.y, width, pane.height}, paler(bluish_green, 0.25));
        }
        canvas_.stroke(
            {{pane.x, pane.y}, {pane.x, pane.y + pane.height}, {pane.x + pane.width, pane.y + pane.height}},
            false, frame_color, 1.0);
        const double step = round_step(most_ / 6.0);
        for (double measure = 0.0; measure <= most_ * (1.0 + 1e-9); measure += step) {
            canvas_.line({pane.x - 5.0, y_of(measure)}, {pane.x, y_of(measure)}, frame_color, 1.0);
            canvas_.text({pane.x - 9.0, y_of(measure) + 4.0}, plain(measure), 12, faint, Align::right);
        }
        canvas_.text({24, pane.y - 16.0},
                     curve.on_fixtures ? "wrong, in parts of lines" : "wrong, by measure", 12, faint);
        if (curve.now >= low_ && curve.now <= high_) {
            canvas_.line({x_of(curve.now), pane.y}, {x_of(curve.now), pane.y + pane.height}, ink, 1.2, true);
            const bool room = x_of(curve.now) < pane.x + pane.width - 120.0;
            canvas_.text({x_of(curve.now) + (room ? 6.0 : -6.0), pane.y + 12.0}, "now " + plain(curve.now),
                         12, ink, room ? Align::left : Align::right);
        }
        for (const bool missed : {true, false}) {
            std::vector<Vec<2>> line;
            for (const VaryPoint& point : curve.points)
                line.emplace_back(x_of(point.value), y_of(missed ? point.wrong.missed : point.wrong.falsely));
            if (line.size() > 1) canvas_.stroke(line, false, missed ? orange : reddish_purple, 1.6);
            for (std::size_t i = 0; i < line.size(); ++i) {
                const VaryPoint& point = curve.points[i];
                const bool is_wrong = (missed ? point.wrong.missed_poses : point.wrong.false_poses) > 0;
                if (is_wrong)
                    draw_mark(canvas_, missed ? Verdict::missed_contact : Verdict::false_contact, line[i],
                              4.5);
            }
        }
        double x = pane.x + pane.width;
        for (const auto& [words, verdict] : {std::pair{"false: signalled, not true", Verdict::false_contact},
                                             {"missed: true, not signalled", Verdict::missed_contact}}) {
            x -= canvas_.text_width(words, 13);
            canvas_.text({x, 58}, words, 13, ink);
            x -= 14.0;
            draw_mark(canvas_, verdict, {x, 54}, 5.0);
            x -= 26.0;
        }
        const std::string words = "nothing wrong";
        x -= canvas_.text_width(words, 13);
        canvas_.text({x, 58}, words, 13, ink);
        canvas_.rectangle({x - 28.0, 48, 22, 11}, paler(bluish_green, 0.25));
    }

    void draw_map() {
        const double height = pane.height / static_cast<double>(map_.size());
        for (std::size_t i = 0; i < map_.size(); ++i) {
            const VaryCurve& curve = map_[i].curve;
            // The first row below, as values grow upwards.
            const double y = pane.y + pane.height - height * static_cast<double>(i + 1);
            for (std::size_t k = 0; k < curve.points.size(); ++k) {
                const auto between = [&](std::size_t a, std::size_t b) {
                    return 0.5 * (x_of(curve.points[a].value) + x_of(curve.points[b].value));
                };
                const double left = k == 0 ? x_of(curve.points[k].value) : between(k - 1, k);
                const double right =
                    k + 1 == curve.points.size() ? x_of(curve.points[k].value) : between(k, k + 1);
                const VaryPoint& point = curve.points[k];
                const bool is_right = point.wrong.poses() == 0;
                const double part = most_whole_ > 0.0 ? std::sqrt(point.wrong.whole() / most_whole_) : 0.0;
                const Color color =
                    is_right ? paler(bluish_green, 0.4) : paler(body_color, 0.08 + 0.8 * part);
                canvas_.rectangle({left, y, std::max(1.0, right - left), height}, color);
                if (is_right && height > 9.0 && right - left > 9.0)
                    draw_mark(canvas_, Verdict::true_contact, {0.5 * (left + right), y + 0.5 * height}, 3.5);
            }
            const double apart = std::max(1.0, std::ceil(16.0 / height));
            if (std::fmod(static_cast<double>(i), apart) == 0.0)
                canvas_.text({pane.x - 9.0, y + 0.5 * height + 4.0}, plain(map_[i].with->second), 12, faint,
                             Align::right);
        }
        canvas_.text({24, pane.y - 16.0}, map_.front().with->first, 14, ink);
        double x = pane.x + pane.width;
        for (const auto& [words, color] : {std::pair{"most wrong", paler(body_color, 0.88)},
                                           {"little wrong", paler(body_color, 0.15)},
                                           {"nothing wrong", paler(bluish_green, 0.4)}}) {
            x -= canvas_.text_width(words, 13);
            canvas_.text({x, 58}, words, 13, ink);
            x -= 28.0;
            canvas_.rectangle({x, 48, 22, 11}, color);
            x -= 18.0;
        }
    }

    const std::vector<VaryMapRow>& map_;
    Canvas canvas_;
    double low_ = infinity;
    double high_ = -infinity;
    double most_ = 0.0;
    double most_whole_ = 0.0;
};

}  // namespace

std::string vary_figure(const std::string& title, const std::vector<VaryMapRow>& map,
                        const std::string& file_name) {
    return VaryDrawer(title, map, kind_of_image(file_name)).draw();
}

}  // namespace hollow_probe

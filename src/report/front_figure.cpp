#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "hollow_probe/report/front.hpp"
#include "report/look.hpp"
#include "report/words.hpp"

namespace hollow_probe {
namespace {

constexpr Rect plot{90.0, 100.0, 640.0, 600.0};
constexpr double list_left = 780.0;

template <int D>
class FrontDrawer {
  public:
    FrontDrawer(const std::string& title, const TuningFront<D>& front, ImageKind kind)
        : front_(front), canvas_(kind, page_width, page_height) {
        canvas_.rectangle({0, 0, page_width, page_height}, {1, 1, 1});
        canvas_.text({24, 32}, canvas_.fitted(title, 18, page_width - 48.0, true), 18, ink, Align::left,
                     true);
        canvas_.text({24, 58},
                     "None is as good as another in what is missed, false and taken, and better in one.", 13,
                     faint);
        const auto grow = [&](const FrontRig<D>& one) {
            most_missed_ = std::max(most_missed_, one.wrong.missed);
            most_false_ = std::max(most_false_, one.wrong.falsely);
            most_effort_ = std::max(most_effort_, one.effort);
        };
        grow(front.before);
        for (const FrontRig<D>& one : front.rigs) grow(one);
        most_missed_ = most_missed_ > 0.0 ? 1.06 * most_missed_ : 1.0;
        most_false_ = most_false_ > 0.0 ? 1.06 * most_false_ : 1.0;
    }

    std::string draw() {
        draw_axes();
        // The largest first, so that none hides another.
        std::vector<std::size_t> order(front_.rigs.size());
        for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
        std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
            return front_.rigs[a].effort > front_.rigs[b].effort;
        });
        const Vec<2> now = at(front_.before);
        canvas_.disc(now, 6.0, body_color);
        canvas_.text(now + Vec<2>(10, -8), "now", 13, ink);
        for (const std::size_t i : order) {
            const FrontRig<D>& one = front_.rigs[i];
            canvas_.disc(at(one), radius(one), {1, 1, 1, 0.8});
            canvas_.ring(at(one), radius(one), one.wrong.poses() == 0 ? bluish_green : probe_color, 2.0);
        }
        draw_numbers();
        draw_list();
        return canvas_.finish();
    }

  private:
    [[nodiscard]] Vec<2> at(const FrontRig<D>& one) const {
        return {plot.x + plot.width * one.wrong.missed / most_missed_,
                plot.y + plot.height * (1.0 - one.wrong.falsely / most_false_)};
    }
    [[nodiscard]] double radius(const FrontRig<D>& one) const {
        return 6.0 + 8.0 * std::sqrt(one.effort / std::max(most_effort_, 1e-12));
    }

    /// Beside its mark, where no other number stands.
    void draw_numbers() {
        std::vector<Vec<2>> taken;
        for (std::size_t i = 0; i < front_.rigs.size(); ++i) {
            const double away = radius(front_.rigs[i]) + 10.0;
            Vec<2> best = at(front_.rigs[i]) + Vec<2>(away, 0.0);
            for (int turn = 0; turn < 12; ++turn) {
                const double angle = 0.5236 * turn;
                const Vec<2> there = at(front_.rigs[i]) + (away + (turn < 6 ? 0.0 : 4.0)) *
                                                              Vec<2>(std::cos(angle), -std::sin(angle));
                const bool by_number = std::any_of(taken.begin(), taken.end(), [&](const Vec<2>& other) {
                    return std::abs(other.x() - there.x()) < 20.0 && std::abs(other.y() - there.y()) < 15.0;
                });
                const bool on_mark =
                    std::any_of(front_.rigs.begin(), front_.rigs.end(), [&](const FrontRig<D>& other) {
                        return (at(other) - there).norm() < radius(other) + 7.0;
                    });
                if (by_number || on_mark) continue;
                best = there;
                break;
            }
            taken.push_back(best);
            canvas_.text(best + Vec<2>(0.0, 5.0), std::to_string(i + 1), 13, ink, Align::middle, true);
        }
    }

    void draw_axes() {
        const double bottom = plot.y + plot.height;
        canvas_.stroke({{plot.x, plot.y}, {plot.x, bottom}, {plot.x + plot.width, bottom}}, false,
                       frame_color, 1.0);
        const double across = round_step(most_missed_ / 8.0);
        for (double v = 0.0; v <= most_missed_; v += across) {
            const double x = plot.x + plot.width * v / most_missed_;
            canvas_.line({x, bottom}, {x, bottom + 5.0}, frame_color, 1.0);
            canvas_.text({x, bottom + 20.0}, plain(v), 12, faint, Align::middle);
        }
        const double along = round_step(most_false_ / 8.0);
        for (double v = 0.0; v <= most_false_; v += along) {
            const double y = plot.y + plot.height * (1.0 - v / most_false_);
            canvas_.line({plot.x - 5.0, y}, {plot.x, y}, frame_color, 1.0);
            canvas_.text({plot.x - 9.0, y + 4.0}, plain(v), 12, faint, Align::right);
        }
        draw_mark(canvas_, Verdict::missed_contact, {plot.x + 0.5 * plot.width - 60.0, bottom + 41.0}, 5.0);
        canvas_.text({plot.x + 0.5 * plot.width - 48.0, bottom + 46.0}, "missed, by measure", 14, ink);
        draw_mark(canvas_, Verdict::false_contact, {30.0, plot.y - 17.0}, 5.0);
        canvas_.text({42.0, plot.y - 12.0}, "false, by measure", 14, ink);
    }

    void draw_list() {
        double y = plot.y;
        const double width = page_width - list_left - 24.0;
        std::string names;
        for (const std::string& name : front_.settings) names += (names.empty() ? "" : ",  ") + name;
        constexpr std::size_t most_lines = 3;
        const auto lines = canvas_.lines("Settings: " + names, 12, width);
        for (std::size_t i = 0; i < std::min(most_lines, lines.size()); ++i) {
            canvas_.text({list_left, y - 36.0}, canvas_.fitted(lines[i], 12, width), 12, faint);
            y += 16.0;
        }
        y -= 36.0;
        const auto row = [&](const std::string& name, const FrontRig<D>& one) {
            y += 24.0;
            std::string words = fmt::format("{}   takes {}, missed {}, false {}", name, plain(one.effort),
                                            measure_text(one.wrong.missed), measure_text(one.wrong.falsely));
            canvas_.text({list_left, y}, canvas_.fitted(words, 13, width, true), 13,
                         one.wrong.poses() == 0 ? darker(bluish_green, 0.25) : ink, Align::left, true);
            std::string values;
            for (std::size_t i = 0; i < one.values.size(); ++i)
                values += (i > 0 ? ",  " : "") + (one.values[i].empty() ? "not given" : one.values[i]);
            y += 17.0;
            canvas_.text({list_left + 18.0, y}, canvas_.fitted(values, 12, width - 18.0), 12, faint);
        };
        row("now", front_.before);
        for (std::size_t i = 0; i < front_.rigs.size(); ++i) row(std::to_string(i + 1), front_.rigs[i]);
    }

    const TuningFront<D>& front_;
    Canvas canvas_;
    double most_missed_ = 0.0;
    double most_false_ = 0.0;
    double most_effort_ = 0.0;
};

}  // namespace

template <int D>
std::string front_figure(const std::string& title, const TuningFront<D>& front,
                         const std::string& file_name) {
    return FrontDrawer<D>(title, front, kind_of_image(file_name)).draw();
}

template std::string front_figure<2>(const std::string&, const TuningFront<2>&, const std::string&);
template std::string front_figure<3>(const std::string&, const TuningFront<3>&, const std::string&);

}  // namespace hollow_probe

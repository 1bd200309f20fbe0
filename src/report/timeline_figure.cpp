#include "hollow_probe/report/timeline_figure.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "hollow_probe/report/drill_text.hpp"
#include "report/look.hpp"

namespace hollow_probe {
namespace {

constexpr double left = 190.0;
constexpr double right = page_width - 24.0;
constexpr double strip_gap = 4.0;
constexpr std::size_t most_words = 8;  // lines
constexpr Color truth_color{0.72, 0.70, 0.67};

template <int D>
class TimelineDrawer {
  public:
    TimelineDrawer(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill,
                   const DrillRecord<D>& record, const DrillWhy& why, ImageKind kind)
        : up_(level.up()),
          rig_(rig),
          drill_(drill),
          record_(record),
          why_(why),
          canvas_(kind, page_width, page_height) {}

    std::string draw() {
        canvas_.rectangle({0, 0, page_width, page_height}, {1, 1, 1});
        const std::string title = fmt::format("{}: {} ticks at {} a second", drill_.name,
                                              record_.ticks.size(), plain(drill_.tick_rate));
        canvas_.text({20, 30}, canvas_.fitted(title, 18, 700, true), 18, ink, Align::left, true);
        draw_legend();
        const double words_top = page_height - words_height();
        const double curves = 2 * 130.0;
        const std::size_t rows = 2 + rig_.signals.size();
        const double room = words_top - 56.0 - curves - 40.0;
        row_height_ = std::clamp(room / static_cast<double>(rows), 12.0, 46.0);
        double y = 56.0;
        const double top = y;
        draw_inputs(y);
        y += 2.0 * row_height_;
        for (std::size_t i = 0; i < rig_.signals.size() && y + row_height_ <= 56.0 + room + 1.0; ++i) {
            draw_signal(i, y);
            y += row_height_;
        }
        y += 14.0;
        const double plot = 0.5 * (words_top - 34.0 - y) - 8.0;
        draw_curve("height", y, plot, [&](const TickRecord<D>& tick) { return tick.anchor.dot(up_); });
        y += plot + 16.0;
        draw_curve("speed", y, plot, [&](const TickRecord<D>& tick) { return tick.velocity.norm(); });
        y += plot;
        draw_times(top, y);
        draw_words(words_top);
        return canvas_.finish();
    }

  private:
    [[nodiscard]] double x_of(double seconds) const {
        return left + (right - left) * seconds / drill_.seconds;
    }
    [[nodiscard]] double begin_of(std::size_t tick) const {
        return x_of(static_cast<double>(tick) / drill_.tick_rate);
    }

    /// Calls visit(first, past the last) for every run of ticks for which `holds`.
    template <class Holds, class Visit>
    void for_each_run(Holds holds, Visit visit) const {
        const auto& ticks = record_.ticks;
        for (std::size_t i = 0; i < ticks.size();) {
            if (!holds(ticks[i])) {
                ++i;
                continue;
            }
            std::size_t end = i;
            while (end < ticks.size() && holds(ticks[end])) ++end;
            visit(i, end);
            i = end;
        }
    }

    void label(const std::string& text, double y, double size = 13.0, Color color = ink) {
        canvas_.text({left - 12.0, y}, canvas_.fitted(text, size, left - 30.0), size, color, Align::right);
    }

    void lane(double y, double height) {
        canvas_.rectangle({left, y, right - left, height}, {0.965, 0.96, 0.95});
    }

    void draw_legend() {
        double x = right;
        for (const Verdict verdict : {Verdict::false_contact, Verdict::missed_contact}) {
            const bool missed = verdict == Verdict::missed_contact;
            if (figure(record_.figures, missed ? "missed_ticks" : "false_ticks") == 0.0) continue;
            const std::string words = missed ? "missed: true, not signalled" : "false: signalled, not true";
            x -= canvas_.text_width(words, 13);
            canvas_.text({x, 30}, words, 13, ink);
            x -= 14.0;
            draw_mark(canvas_, verdict, {x, 26}, 6.0);
            x -= 26.0;
        }
        for (const auto& [words, color] : {std::pair{"signalled", body_color}, {"true", truth_color}}) {
            x -= canvas_.text_width(words, 13);
            canvas_.text({x, 30}, words, 13, ink);
            x -= 28.0;
            canvas_.rectangle({x, 20, 22, 10}, color);
            x -= 18.0;
        }
    }

    void draw_inputs(double y) {
        const double height = row_height_ - strip_gap;
        label("drive", y + 0.5 * height + 4.5);
        lane(y, height);
        for_each_run([](const TickRecord<D>& tick) { return !tick.drive.is_zero(0.0); },
                     [&](std::size_t first, std::size_t end) {
                         // One bar for each direction driven.
                         for (std::size_t i = first; i < end;) {
                             std::size_t same = i;
                             while (same < end && record_.ticks[same].drive == record_.ticks[i].drive) ++same;
                             draw_drive(i, same, y, height);
                             i = same;
                         }
                     });
        y += row_height_;
        label("keys", y + 0.5 * height + 4.5);
        lane(y, height);
        // From the last to the first, so that each knows how much room it has.
        double free_until = right;
        for (std::size_t i = record_.ticks.size(); i-- > 0;) {
            const TickRecord<D>& tick = record_.ticks[i];
            for (std::size_t k = 0; k < record_.keys.size(); ++k) {
                if ((tick.pressed >> k & 1U) == 0) continue;
                const double x = begin_of(i);
                const bool refused = record_.keys[k] == "jump" && !tick.jumped;
                canvas_.line({x, y}, {x, y + height}, refused ? faint : ink, 1.6, refused);
                for (const std::string& words :
                     {record_.keys[k] + (refused ? ", not given" : ""), record_.keys[k]}) {
                    if (x + 8.0 + canvas_.text_width(words, 12) > free_until) continue;
                    canvas_.text({x + 4.0, y + 0.5 * height + 4.0}, words, 12, refused ? faint : ink);
                    break;
                }
                free_until = x;
            }
        }
    }

    void draw_drive(std::size_t first, std::size_t end, double y, double height) {
        const double from = begin_of(first);
        const double to = begin_of(end);
        canvas_.rectangle({from, y, std::max(1.0, to - from - 1.0), height}, {0.80, 0.84, 0.88});
        const Vec<D>& drive = record_.ticks[first].drive;
        std::string words;
        for (int axis = 0; axis < D; ++axis) words += (axis > 0 ? ", " : "") + plain(drive[axis]);
        words = "(" + words + ")";
        if (canvas_.text_width(words, 12) + 10.0 < to - from)
            canvas_.text({from + 5.0, y + 0.5 * height + 4.0}, words, 12, ink);
    }

    /// Above what is true, below what the signal says; where they differ, the verdict's mark.
    void draw_signal(std::size_t signal, double y) {
        const double height = row_height_ - strip_gap;
        const double half = 0.5 * height;
        const auto bit = [signal](SignalSet set) { return set.has(signal); };
        label(rig_.signals[signal].name, y + half - 1.0, std::min(13.0, half + 2.0));
        label(std::string("claims ") + name_of(rig_.signals[signal].claims), y + height - 1.0,
              std::min(11.0, half), faint);
        lane(y, height);
        for_each_run(
            [&](const TickRecord<D>& tick) { return bit(tick.truths_on); },
            [&](std::size_t first, std::size_t end) { bar(first, end, y + 1.0, half - 2.0, truth_color); });
        for_each_run([&](const TickRecord<D>& tick) { return bit(tick.signals_on); },
                     [&](std::size_t first, std::size_t end) {
                         bar(first, end, y + half + 1.0, half - 2.0, body_color);
                     });
        const auto mark = [&](bool missed) {
            double last = -100.0;
            for_each_run(
                [&](const TickRecord<D>& tick) {
                    return !bit(tick.undecided) && bit(tick.truths_on) == missed &&
                           bit(tick.signals_on) != missed;
                },
                [&](std::size_t first, std::size_t end) {
                    const double middle = 0.5 * (begin_of(first) + begin_of(end));
                    const double size = std::min(7.0, half - 1.0);
                    if (middle - last < 1.6 * size) return;  // a mark is there already
                    last = middle;
                    draw_mark(canvas_, missed ? Verdict::missed_contact : Verdict::false_contact,
                              {middle, y + half}, size);
                });
        };
        mark(true);
        mark(false);
    }

    void bar(std::size_t first, std::size_t end, double y, double height, Color color) {
        canvas_.rectangle({begin_of(first), y, std::max(1.0, begin_of(end) - begin_of(first)), height},
                          color);
    }

    template <class Value>
    void draw_curve(const std::string& name, double y, double height, Value value) {
        lane(y, height);
        double low = value(record_.start);
        double high = low;
        for (const TickRecord<D>& tick : record_.ticks) {
            low = std::min(low, value(tick));
            high = std::max(high, value(tick));
        }
        const double spare = std::max(0.05 * (high - low), 1e-6 + 0.02 * std::abs(high));
        low -= spare;
        high += spare;
        const auto y_of = [&](double v) { return y + height - height * (v - low) / (high - low); };
        const double step = round_step(std::max((high - low) * 36.0 / height, 1e-9));
        for (double v = std::ceil(low / step) * step; v <= high; v += step) {
            const double at = y_of(v);
            canvas_.line({left, at}, {right, at}, {0.87, 0.86, 0.84}, 1.0);
            const double shown = std::abs(v) < 1e-9 * step ? 0.0 : v;
            canvas_.text({left - 8.0, std::clamp(at + 4.0, y + 10.0, y + height)}, plain(shown), 11, faint,
                         Align::right);
        }
        canvas_.text({20.0, y + 0.5 * height + 4.0}, name, 13, ink);
        std::vector<Vec<2>> points = {{left, y_of(value(record_.start))}};
        for (const TickRecord<D>& tick : record_.ticks)
            points.push_back({x_of(tick.seconds), y_of(value(tick))});
        canvas_.clipped({left, y, right - left, height},
                        [&] { canvas_.stroke(points, false, probe_color, 1.8); });
    }

    void draw_times(double top, double bottom) {
        const double step = round_step(std::max(drill_.seconds * 70.0 / (right - left), 1e-9));
        for (double t = 0.0; t <= drill_.seconds * (1.0 + 1e-9); t += step) {
            canvas_.line({x_of(t), bottom}, {x_of(t), bottom + 5.0}, faint, 1.0);
            canvas_.text({x_of(t), bottom + 18.0}, plain(t) + (t == 0.0 ? " s" : ""), 11, faint,
                         Align::middle);
        }
        for (std::size_t i = 0; i < record_.broken.size(); ++i) {
            const double x = x_of(std::min(record_.broken[i].seconds, drill_.seconds));
            canvas_.line({x, top}, {x, bottom}, orange, 1.4, true);
            // Those broken in the same tick stand below one another.
            double y = top - 3.0;
            for (std::size_t k = 0; k < i; ++k) {
                if (std::abs(x_of(record_.broken[k].seconds) - x) < 14.0) y += 16.0;
            }
            canvas_.disc({x, y}, 8.0, {1, 1, 1});
            canvas_.ring({x, y}, 8.0, orange, 1.4);
            canvas_.text({x, y + 4.0}, std::to_string(i + 1), 11, ink, Align::middle, true);
        }
    }

    [[nodiscard]] std::vector<std::string> words() const {
        const DrillOutcome outcome = outcome_of<D>(drill_, record_);
        std::vector<std::string> lines;
        for (std::size_t i = 0; i < record_.broken.size(); ++i) {
            lines.push_back(fmt::format("{}  {}", i + 1, broken_sentence(outcome, record_.broken[i])));
            for (FirstBroken first : why_.first) {
                if (first.expectation != record_.broken[i].expectation) continue;
                first.cure = 0;  // no changes are listed here
                for (const std::string& line :
                     canvas_.lines(first_sentence(outcome, first), 13.5, page_width - 70.0))
                    lines.push_back("     " + line);
            }
        }
        const std::size_t all = drill_.expectations.size();
        if (lines.empty())
            lines.push_back(all == 0 ? "Nothing is expected of this drill."
                                     : fmt::format("All {} expectations are kept.", all));
        return lines;
    }

    [[nodiscard]] double words_height() const {
        return 20.0 + 19.0 * static_cast<double>(std::min<std::size_t>(words().size(), most_words));
    }

    void draw_words(double top) {
        double y = top + 16.0;
        const auto lines = words();
        for (std::size_t i = 0; i < std::min<std::size_t>(lines.size(), most_words); ++i) {
            const bool cut = i + 1 == most_words && lines.size() > most_words;
            const std::string line =
                cut ? fmt::format("… and {} more", lines.size() - most_words + 1) : lines[i];
            canvas_.text({20.0, y}, canvas_.fitted(line, 13.5, page_width - 40.0), 13.5, ink);
            y += 19.0;
        }
    }

    Vec<D> up_;
    const Rig<D>& rig_;
    const Drill<D>& drill_;
    const DrillRecord<D>& record_;
    const DrillWhy& why_;
    Canvas canvas_;
    double row_height_ = 30.0;
};

}  // namespace

template <int D>
std::string timeline_figure(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill,
                            const DrillRecord<D>& record, const std::string& file_name, const DrillWhy& why) {
    return TimelineDrawer<D>(level, rig, drill, record, why, kind_of_image(file_name)).draw();
}

template std::string timeline_figure<2>(const Level<2>&, const Rig<2>&, const Drill<2>&,
                                        const DrillRecord<2>&, const std::string&, const DrillWhy&);
template std::string timeline_figure<3>(const Level<3>&, const Rig<3>&, const Drill<3>&,
                                        const DrillRecord<3>&, const std::string&, const DrillWhy&);

}  // namespace hollow_probe

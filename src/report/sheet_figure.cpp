#include "hollow_probe/report/sheet_figure.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "hollow_probe/report/sheet_text.hpp"
#include "report/look.hpp"

namespace hollow_probe {
namespace {

constexpr double margin = 24.0;
constexpr double top = 72.0;
constexpr Color intended_color{0.72, 0.70, 0.67};

class SheetDrawer {
  public:
    SheetDrawer(std::string title, std::vector<SheetRow> rows, ImageKind kind)
        : title_(std::move(title)),
          rows_(std::move(rows)),
          columns_(rows_.size() > 11 ? 2 : 1),
          per_column_((rows_.size() + columns_ - 1) / columns_),
          height_(std::max(page_height, top + 30.0 * static_cast<double>(per_column_) + 10.0)),
          canvas_(kind, page_width, height_) {}

    std::string draw() {
        canvas_.rectangle({0, 0, page_width, height_}, {1, 1, 1});
        canvas_.text({margin, 32}, canvas_.fitted(title_, 18, 720, true), 18, ink, Align::left, true);
        legend();
        const double column = (page_width - 2.0 * margin + 24.0) / static_cast<double>(columns_);
        const double row = std::min(
            56.0, (height_ - top - 10.0) / static_cast<double>(std::max<std::size_t>(per_column_, 1)));
        for (std::size_t i = 0; i < rows_.size(); ++i) {
            const std::size_t number_of_column = i / per_column_;
            const double x = margin + column * static_cast<double>(number_of_column);
            const double y = top + row * static_cast<double>(i % per_column_);
            draw_row(i, {x, y, column - 24.0, row});
        }
        return canvas_.finish();
    }

  private:
    void legend() {
        double x = page_width - margin;
        for (const auto& [words, verdict] : {std::pair{"on where it should not be", Verdict::false_contact},
                                             {"meant to be on, and is not", Verdict::missed_contact}}) {
            x -= canvas_.text_width(words, 12);
            canvas_.text({x, 56}, words, 12, ink);
            x -= 13.0;
            draw_mark(canvas_, verdict, {x, 52}, 5.0);
            x -= 22.0;
        }
        for (const auto& [words, color] : {std::pair{"meant to be", intended_color}, {"is on", body_color}}) {
            x -= canvas_.text_width(words, 12);
            canvas_.text({x, 56}, words, 12, ink);
            x -= 26.0;
            canvas_.rectangle({x, 47, 20, 9}, color);
            x -= 16.0;
        }
    }

    void draw_row(std::size_t number, const Rect& area) {
        const SheetRow& row = rows_[number];
        const ResponseCurve& curve = row.curves[row.worst];
        const double words = 0.34 * area.width;
        const double verdict = 0.16 * area.width;
        const double strip_left = area.x + words;
        const double strip_width = area.width - words - verdict - 10.0;
        const double middle = area.y + 0.5 * area.height;
        const bool follows = number % per_column_ > 0 && rows_[number - 1].line == row.line;
        if (!follows) canvas_.line({area.x, area.y}, {area.x + area.width, area.y}, {0.90, 0.89, 0.87}, 1.0);
        const double name_width = 0.58 * words;
        if (!follows)
            canvas_.text({area.x, middle + 1.0}, canvas_.fitted(row.line, 12, name_width, true), 12, ink,
                         Align::left, true);
        if (!follows)
            canvas_.text({area.x, middle + 12.0}, canvas_.fitted(row.axis.name, 10, name_width), 10, faint);
        canvas_.text({strip_left - 10.0, middle + 4.0},
                     canvas_.fitted(row.signal, 12, words - name_width - 14.0), 12, ink, Align::right);
        const double bar = std::min(8.0, 0.26 * area.height);
        const auto x_of = [&](double value) {
            const double part = (value - row.axis.least) / (row.axis.most - row.axis.least);
            return strip_left + strip_width * std::clamp(part, 0.0, 1.0);
        };
        const auto strip = [&](const std::vector<Stretch>& stretches, double y, Color color) {
            canvas_.rectangle({strip_left, y, strip_width, bar}, {0.955, 0.95, 0.94});
            for (const Stretch& one : stretches) {
                const double x = x_of(one.from);
                canvas_.rectangle({x, y, std::max(1.5, x_of(one.to) - x), bar}, color);
            }
        };
        const double y = middle - bar - 5.0;
        strip(curve.on, y, body_color);
        strip(curve.intended, y + bar + 1.0, intended_color);
        mark_wrong(curve, x_of, y + bar + 0.5);
        numbers(row, curve, x_of, y + 2.0 * bar + 10.0, strip_left, strip_width);
        const std::string text = wrong_text(curve, row.axis);
        const bool is_right = curve.wrong() == 0.0;
        canvas_.text({area.x + area.width - verdict, middle + 3.0},
                     canvas_.fitted(is_right ? "right" : text, 12, verdict), 12, is_right ? faint : ink);
    }

    /// A mark amid each stretch of what is missed or false.
    template <class Place>
    void mark_wrong(const ResponseCurve& curve, Place x_of, double y) {
        const auto mark = [&](const std::vector<Stretch>& these, const std::vector<Stretch>& others,
                              Verdict verdict) {
            for (const Stretch& one : these) {
                double at = one.from;
                const auto put = [&](double until) {
                    if (x_of(until) - x_of(at) > 2.0)
                        draw_mark(canvas_, verdict, {0.5 * (x_of(at) + x_of(until)), y}, 5.0);
                };
                for (const Stretch& other : others) {
                    if (other.to <= at || other.from >= one.to) continue;
                    if (other.from > at) put(other.from);
                    at = std::max(at, other.to);
                }
                if (at < one.to) put(one.to);
            }
        };
        if (curve.missed > 0.0) mark(curve.intended, curve.on, Verdict::missed_contact);
        if (curve.falsely > 0.0) mark(curve.on, curve.intended, Verdict::false_contact);
    }

    /// The ends of the range, and where the signal and what is intended change, as far as there is room.
    template <class Place>
    void numbers(const SheetRow& row, const ResponseCurve& curve, Place x_of, double y, double left,
                 double width) {
        struct Number {
            double value;
            Color color;
        };
        std::vector<Number> wanted;
        const auto add = [&](const std::vector<Stretch>& stretches, Color color) {
            for (const Stretch& one : stretches) {
                for (const double end : {one.from, one.to}) {
                    if (end > row.axis.least && end < row.axis.most) wanted.push_back({end, color});
                }
            }
        };
        add(curve.intended, faint);
        add(curve.on, ink);
        wanted.push_back({row.axis.least, clear_grey});
        wanted.push_back({row.axis.most, clear_grey});
        std::vector<std::pair<double, double>> taken;
        for (const Number& number : wanted) {
            const std::string text = value_text(number.value, row.axis.unit);
            const double half = 0.5 * canvas_.text_width(text, 9.5);
            const double x = std::clamp(x_of(number.value), left + half, left + width - half);
            const bool free = std::none_of(taken.begin(), taken.end(), [&](const auto& other) {
                return x - half < other.second + 5.0 && x + half > other.first - 5.0;
            });
            if (!free) continue;
            taken.emplace_back(x - half, x + half);
            canvas_.text({x, y}, text, 9.5, number.color, Align::middle);
        }
    }

    std::string title_;
    std::vector<SheetRow> rows_;
    std::size_t columns_;
    std::size_t per_column_;
    double height_;
    Canvas canvas_;
};

}  // namespace

template <int D>
std::string sheet_figure(const std::string& rig_name, const DataSheet<D>& sheet,
                         const std::string& file_name) {
    const std::string title =
        fmt::format("Data sheet of {}, {} on \"{}\"", rig_name, sheet.stance, sheet.layer);
    return SheetDrawer(title, sheet.rows, kind_of_image(file_name)).draw();
}

std::string response_figure(const std::string& title, const std::vector<SheetRow>& rows,
                            const std::string& file_name) {
    // Each curve a row of its own.
    std::vector<SheetRow> single;
    for (const SheetRow& row : rows) {
        for (const ResponseCurve& curve : row.curves) {
            SheetRow one = row;
            one.curves = {curve};
            one.worst = 0;
            single.push_back(std::move(one));
        }
    }
    return SheetDrawer(title, std::move(single), kind_of_image(file_name)).draw();
}

template std::string sheet_figure<2>(const std::string&, const DataSheet<2>&, const std::string&);
template std::string sheet_figure<3>(const std::string&, const DataSheet<3>&, const std::string&);

}  // namespace hollow_probe

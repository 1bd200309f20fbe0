#include "hollow_probe/report/block_view.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>

#include "hollow_probe/geometry/separation.hpp"
#include "hollow_probe/level/level_cast.hpp"
#include "hollow_probe/report/survey_text.hpp"
#include "report/look.hpp"
#include "report/pose_reading.hpp"
#include "report/projection.hpp"

namespace hollow_probe {
namespace {

/// By the quarters that are filled: upper left 1, upper right 2, lower left 4, lower right 8.
constexpr std::array quarters = {" ", "▘", "▝", "▀", "▖", "▌", "▞", "▛",
                                 "▗", "▚", "▐", "▜", "▄", "▙", "▟", "█"};

struct Cell {
    std::string text = " ";
    int color = 0;  // ANSI; 0: the terminal's own
};

struct MarkLook {
    const char* text;
    int color;
    int weight;
};
constexpr std::array<MarkLook, verdict_count> mark_looks = {
    {{"●", 32, 1}, {"○", 33, 4}, {"×", 35, 3}, {"·", 90, 0}, {"□", 37, 2}, {"◈", 32, 1}}};
constexpr int probe_ansi = 36;
constexpr int body_ansi = 1;  // bold in whatever the terminal writes with: light or dark

template <int D>
class BlockDrawer {
  public:
    BlockDrawer(const Scene<D>& scene, const BlockOptions& options)
        : level_(*scene.level),
          scene_(scene),
          columns_(std::max<std::size_t>(options.columns, 20)),
          rows_(std::max<std::size_t>(options.rows, 8)),
          color_(options.color),
          cells_(columns_ * rows_) {
        if (scene.pose && scene.rig) {
            read_.emplace(level_, *scene.rig, *scene.pose);
            if (scene.judged) read_->say_as(*scene.judged);
            if (scene.finding != nullptr) read_->say_as(scene.finding->worst);
        }
        place_view();
    }

    std::string draw() {
        draw_level();
        if (scene_.survey != nullptr) draw_marks();
        if (read_) draw_body();
        return picture() + words();
    }

  private:
    void place_view() {
        view_.frame = {0.0, 0.0, static_cast<double>(columns_), 2.0 * static_cast<double>(rows_)};
        view_.up = level_.up();
        Vec<D> middle = level_.bounds().center();
        if constexpr (D == 2) {
            view_.right = right_of(view_.up);
        } else {
            view_.right =
                read_ ? scene_.pose->heading
                      : level_heading<3>(std::abs(view_.up.x()) < 0.9 ? Vec<3>::unit(0) : Vec<3>::unit(1),
                                         view_.up);
            view_.away = view_.up.cross(view_.right);
            if (read_) middle = scene_.pose->anchor;
            view_.cut = view_.away.dot(middle);
        }
        Bounds<2> box;
        if (read_) {
            for (const Vec<2>& p : shadow<D>(view_, read_->mounted.body.view(), scene_.pose->anchor))
                box.grow(p);
            box = box.inflated(1.1 * box.size().largest());
        } else {
            for (std::uint32_t i = 0; i < level_.piece_count(); ++i) {
                for (const Vec<2>& p : shadow<D>(view_, level_.piece(i), Vec<D>::zero())) box.grow(p);
            }
        }
        if (box.empty()) box = {Vec<2>::constant(-1.0), Vec<2>::constant(1.0)};
        view_.fit(box.low, box.high, 0.5);
        // A flat level needs no high picture.
        if (read_) return;
        const double needed = std::ceil(0.5 * box.size().y() * view_.scale) + 1.0;
        rows_ = std::clamp<std::size_t>(static_cast<std::size_t>(needed), 4, rows_);
        view_.frame.height = 2.0 * static_cast<double>(rows_);
        cells_.resize(columns_ * rows_);
    }

    /// A place of the picture, in half cells across and down, as a point of the level.
    [[nodiscard]] Vec<D> point_at(std::size_t across, std::size_t down) const {
        const Vec<2> flat =
            view_.flat(view_.center) +
            Vec<2>((0.5 * static_cast<double>(across) + 0.25 - 0.5 * view_.frame.width) / view_.scale,
                   (0.5 * view_.frame.height - static_cast<double>(down) - 0.5) / view_.scale);
        Vec<D> point = flat.x() * view_.right + flat.y() * view_.up;
        if constexpr (D == 3) point += view_.cut * view_.away;
        return point;
    }

    /// The layer of what is solid there; -1: nothing.
    [[nodiscard]] int solid_at(const Vec<D>& point) const {
        static const HullTopology none;
        // What is thinner than a quarter of a cell would fall between the places asked for.
        const double thin = 0.3 / view_.scale;
        Bounds<D> box;
        box.grow(point);
        int found = -1;
        level_.tree().overlapping(box.inflated(thin), ~LayerSet{0}, [&](std::uint32_t piece) {
            const HullView<D> dot{{&point, 1}, 0.0, {}, &none};
            const HullView<D> hull = level_.piece(piece);
            const bool slight = bounds_of(hull).size().smallest() < 2.0 * thin;
            if (separation<D>(dot, hull).gap > (slight ? thin : 0.0)) return true;
            found = static_cast<int>(level_.layer_of(piece));
            return false;
        });
        return found;
    }

    /// How far behind the cut the first thing lies, as a part of what lies behind it; nothing if there is
    /// none.
    [[nodiscard]] std::optional<double> behind(const Vec<D>& point) const {
        if constexpr (D == 2) return std::nullopt;
        const auto dot = RoundedHull<D>::ball(Vec<D>::zero(), 1.0).with_radius(0.0);
        const Bounds<D>& box = level_.bounds();
        const double farthest = view_.depth(box.center()) + 0.5 * view_.away.abs().dot(box.size());
        LevelCast<D> ray{dot.view(), point, view_.away, box.size().norm(), ~LayerSet{0}};
        ray.one_way = OneWay::always;
        const auto hit = first_hit<D>(level_, ray);
        if (!hit) return std::nullopt;
        return hit->distance / std::max(farthest - view_.cut, 1e-12);
    }

    Cell& cell(std::size_t column, std::size_t row) { return cells_[row * columns_ + column]; }

    void draw_level() {
        static constexpr std::array layer_colors = {90, 34, 37, 36, 32, 94};
        for (std::size_t row = 0; row < rows_; ++row) {
            for (std::size_t column = 0; column < columns_; ++column) {
                unsigned filled = 0;
                int layer = -1;
                for (unsigned part = 0; part < 4; ++part) {
                    const int here = solid_at(point_at(2 * column + part % 2, 2 * row + part / 2));
                    if (here < 0) continue;
                    filled |= 1U << part;
                    layer = here;
                }
                Cell& there = cell(column, row);
                if (filled != 0) {
                    there = {quarters[filled], layer_colors[static_cast<std::size_t>(layer) % 6]};
                } else if (const auto far = behind(point_at(2 * column, 2 * row))) {
                    // What is farther is paler, or a wall at the back would hide all that stands before it.
                    there = {*far < 0.8 ? "▓" : "░", 90};
                }
            }
        }
    }

    void put(const Vec<D>& point, const Cell& what) {
        const Vec<2> at = view_.at(point);
        const double row = std::floor(0.5 * at.y());
        if (at.x() < 0.0 || row < 0.0 || at.x() >= view_.frame.width || row >= static_cast<double>(rows_))
            return;
        cell(static_cast<std::size_t>(at.x()), static_cast<std::size_t>(row)) = what;
    }

    void draw_marks() {
        std::vector<int> weights(cells_.size(), -1);
        for (const SurveyPose<D>& pose : scene_.survey->poses) {
            if (D == 3 && std::abs(view_.depth(pose.anchor) - view_.cut) > 0.75 * scene_.survey->spacing)
                continue;
            const Vec<2> at = view_.at(pose.anchor);
            const double row = std::floor(0.5 * at.y());
            if (at.x() < 0.0 || row < 0.0 || at.x() >= view_.frame.width || row >= static_cast<double>(rows_))
                continue;
            auto gravest = static_cast<std::size_t>(Verdict::true_clear);
            for (std::size_t s = 0; s < scene_.survey->signals.size(); ++s) {
                if (scene_.finding != nullptr && s != scene_.finding->signal) continue;
                const auto verdict = static_cast<std::size_t>(pose.verdict(s));
                if (mark_looks[verdict].weight > mark_looks[gravest].weight) gravest = verdict;
            }
            const auto place = static_cast<std::size_t>(row) * columns_ + static_cast<std::size_t>(at.x());
            if (mark_looks[gravest].weight <= weights[place]) continue;
            weights[place] = mark_looks[gravest].weight;
            cells_[place] = {mark_looks[gravest].text, mark_looks[gravest].color};
            shown_[gravest] = true;
        }
    }

    void draw_body() {
        static const HullTopology none;
        const Vec<D>& anchor = read_->pose.anchor;
        for (std::size_t row = 0; row < rows_; ++row) {
            for (std::size_t column = 0; column < columns_; ++column) {
                // A cell's middle lies between its quarters.
                const Vec<D> point =
                    0.25 * (point_at(2 * column, 2 * row) + point_at(2 * column + 1, 2 * row) +
                            point_at(2 * column, 2 * row + 1) + point_at(2 * column + 1, 2 * row + 1));
                const HullView<D> dot{{&point, 1}, 0.0, {}, &none};
                if (separation<D>(dot, -anchor, read_->mounted.body.view()).gap > 0.0) continue;
                Cell& there = cell(column, row);
                const bool marked = std::any_of(
                    mark_looks.begin(), mark_looks.end(),
                    [&](const MarkLook& look) { return there.text == look.text && look.weight > 0; });
                if (!marked) there = {"▒", body_ansi};
            }
        }
        put(anchor, {"▲", body_ansi});
        for (std::size_t i = 0; i < read_->mounted.probes.size(); ++i) {
            const MountedProbe<D>& probe = read_->mounted.probes[i];
            if (!read_->is_read(i) || probe.kind == ProbeKind::contact) continue;
            for (std::size_t line = 0; line < probe.lines.size(); ++line) draw_probe(i, line);
        }
    }

    void draw_probe(std::size_t i, std::size_t line) {
        const MountedProbe<D>& probe = read_->mounted.probes[i];
        const Vec<D> start = read_->start_of(i, line);
        const double way = read_->end_of(i, line);
        const Vec<D>& along = probe.lines[line].along;
        const Vec<2> direction = view_.flat(along);
        const char* const stroke = std::abs(direction.y()) > 2.0 * std::abs(direction.x())   ? "│"
                                   : std::abs(direction.x()) > 2.0 * std::abs(direction.y()) ? "─"
                                   : direction.x() * direction.y() > 0.0                     ? "╱"
                                                                                             : "╲";
        const int steps = static_cast<int>(2.0 * way * view_.scale) + 1;
        for (int step = 0; step <= steps; ++step)
            put(start + way * step / steps * along, {stroke, probe_ansi});
        put(start, {"•", probe_ansi});
        const bool met = probe.is_line() ? read_->hit_of(i, line).has_value() : read_->readings[i].met;
        const bool on = met && read_->line_on(i, line);
        put(start + way * along, {on ? "◆" : met ? "◇" : "┴", probe_ansi});
        (on ? any_on_ : met ? any_refused_ : any_empty_) = true;
    }

    [[nodiscard]] std::string painted(const std::string& text, int color) const {
        return color_ && color != 0 ? fmt::format("\x1b[{}m{}\x1b[0m", color, text) : text;
    }

    [[nodiscard]] std::string picture() const {
        std::string text;
        for (std::size_t row = 0; row < rows_; ++row) {
            std::string line;
            std::string run;
            int color = 0;
            for (std::size_t column = 0; column < columns_; ++column) {
                const Cell& here = cells_[row * columns_ + column];
                if (here.color != color) {
                    line += painted(run, color);
                    run.clear();
                    color = here.color;
                }
                run += here.text;
            }
            line += painted(run, color);
            line.erase(line.find_last_not_of(' ') + 1);
            text += line + "\n";
        }
        // Nothing is to be seen in empty lines above and below.
        text.erase(0, std::min(text.find_first_not_of('\n'), text.size()));
        text.erase(text.find_last_not_of('\n') + 1);
        return text + "\n";
    }

    [[nodiscard]] std::string words() const {
        std::string text = fmt::format("{} wide, {} high", plain(view_.frame.width / view_.scale),
                                       plain(view_.frame.height / view_.scale));
        if (read_) {
            text += "; " + painted("▒", body_ansi) + " body";
            // A hit may lie on it.
            if (std::any_of(cells_.begin(), cells_.end(), [](const Cell& c) { return c.text == "▲"; }))
                text += ", " + painted("▲", body_ansi) + " anchor";
            text += ", " + painted("•", probe_ansi) + " probe starts";
            if (any_on_) text += ", " + painted("◆", probe_ansi) + " on";
            if (any_refused_) text += ", " + painted("◇", probe_ansi) + " hit but refused";
            if (any_empty_) text += ", " + painted("┴", probe_ansi) + " hit nothing";
        }
        for (std::size_t v = 0; v < verdict_count; ++v) {
            if (!shown_[v]) continue;
            std::string name = words_for(static_cast<Verdict>(v));
            text += ", " + painted(mark_looks[v].text, mark_looks[v].color) + " " + name;
        }
        text += "\n";
        if (!read_) return text;
        for (std::size_t i = 0; i < read_->readings.size(); ++i)
            text += fmt::format("{:>3} {}\n", i + 1, read_->words(i));
        return text;
    }

    const Level<D>& level_;
    const Scene<D>& scene_;
    std::size_t columns_;
    std::size_t rows_;
    bool color_;
    View<D> view_;
    std::vector<Cell> cells_;
    std::optional<PoseReading<D>> read_;
    std::array<bool, verdict_count> shown_{};
    bool any_on_ = false;
    bool any_refused_ = false;
    bool any_empty_ = false;
};

}  // namespace

template <int D>
std::string block_view(const Scene<D>& scene, const BlockOptions& options) {
    return BlockDrawer<D>(scene, options).draw();
}

template std::string block_view<2>(const Scene<2>&, const BlockOptions&);
template std::string block_view<3>(const Scene<3>&, const BlockOptions&);

}  // namespace hollow_probe

#include "report/canvas.hpp"

#include <cairo-svg.h>
#include <cairo.h>

#include <algorithm>

namespace hollow_probe {

ImageKind kind_of_image(const std::string& file_name) {
    if (file_name.ends_with(".svg")) return ImageKind::svg;
    if (file_name.ends_with(".png")) return ImageKind::png;
    throw InvalidInput("figure '" + file_name + "' must end in .svg or .png");
}
namespace {

cairo_status_t append_bytes(void* target, const unsigned char* data, unsigned int length) {
    static_cast<std::string*>(target)->append(reinterpret_cast<const char*>(data), length);
    return CAIRO_STATUS_SUCCESS;
}

// Far beyond any page, and well within what cairo's fixed-point numbers hold.
constexpr double reach = 10000.0;

/// The part of a polygon that could be seen (I. E. Sutherland, G. W. Hodgman, "Reentrant polygon clipping",
/// 1974). Nothing if it has a corner that is not finite.
std::vector<Vec<2>> within_reach(std::vector<Vec<2>> polygon) {
    for (const Vec<2>& p : polygon) {
        if (!p.is_finite()) return {};
    }
    for (int side = 0; side < 4; ++side) {
        const int axis = side / 2;
        const double sign = side % 2 == 0 ? 1.0 : -1.0;
        const auto inside = [&](const Vec<2>& p) { return reach - sign * p[axis]; };
        std::vector<Vec<2>> kept;
        for (std::size_t i = 0; i < polygon.size(); ++i) {
            const Vec<2>& a = polygon[i];
            const Vec<2>& b = polygon[(i + 1) % polygon.size()];
            const double in_a = inside(a);
            const double in_b = inside(b);
            if (in_a >= 0.0) kept.push_back(a);
            if ((in_a >= 0.0) != (in_b >= 0.0)) kept.emplace_back(a + (b - a) * (in_a / (in_a - in_b)));
        }
        polygon = std::move(kept);
    }
    return polygon;
}

struct SurfaceDeleter {
    void operator()(cairo_surface_t* surface) const { cairo_surface_destroy(surface); }
};
struct ContextDeleter {
    void operator()(cairo_t* context) const { cairo_destroy(context); }
};

/// The next UTF-8 character's first byte after position i.
std::size_t next_character(const std::string& text, std::size_t i) {
    ++i;
    while (i < text.size() && (static_cast<unsigned char>(text[i]) & 0xC0U) == 0x80U) ++i;
    return i;
}

}  // namespace

struct Canvas::Cairo {
    std::unique_ptr<cairo_surface_t, SurfaceDeleter> surface;
    std::unique_ptr<cairo_t, ContextDeleter> context;

    cairo_t* get() const { return context.get(); }
    void color(const Color& c) const { cairo_set_source_rgba(get(), c.red, c.green, c.blue, c.alpha); }
    void font(double size, bool bold) const {
        cairo_select_font_face(get(), "DejaVu Sans", CAIRO_FONT_SLANT_NORMAL,
                               bold ? CAIRO_FONT_WEIGHT_BOLD : CAIRO_FONT_WEIGHT_NORMAL);
        cairo_set_font_size(get(), size);
    }
};

Canvas::Canvas(ImageKind kind, double width, double height) : kind_(kind), cairo_(std::make_unique<Cairo>()) {
    cairo_->surface.reset(kind == ImageKind::svg
                              ? cairo_svg_surface_create_for_stream(append_bytes, &bytes_, width, height)
                              : cairo_image_surface_create(CAIRO_FORMAT_RGB24, static_cast<int>(width),
                                                           static_cast<int>(height)));
    cairo_->context.reset(cairo_create(cairo_->surface.get()));
    cairo_set_line_join(cairo_->get(), CAIRO_LINE_JOIN_ROUND);
    cairo_set_line_cap(cairo_->get(), CAIRO_LINE_CAP_ROUND);
    rectangle({0, 0, width, height}, {1, 1, 1});
}

Canvas::~Canvas() = default;

std::string Canvas::finish() {
    if (kind_ == ImageKind::png)
        cairo_surface_write_to_png_stream(cairo_->surface.get(), append_bytes, &bytes_);
    cairo_surface_finish(cairo_->surface.get());
    return std::move(bytes_);
}

void Canvas::path(const std::vector<Vec<2>>& points, bool closed) {
    cairo_new_path(cairo_->get());
    for (const Vec<2>& p : points) cairo_line_to(cairo_->get(), p.x(), p.y());
    if (closed) cairo_close_path(cairo_->get());
}

void Canvas::fill(const std::vector<Vec<2>>& polygon, Color color) {
    path(within_reach(polygon), true);
    cairo_->color(color);
    cairo_fill(cairo_->get());
}

void Canvas::hatch(const std::vector<Vec<2>>& whole, double angle, double apart, Color color, double width) {
    const std::vector<Vec<2>> polygon = within_reach(whole);
    if (polygon.empty()) return;
    const Vec<2> along(std::cos(radians(angle)), std::sin(radians(angle)));
    const Vec<2> across(-along.y(), along.x());
    double low = infinity, high = -infinity, left = infinity, right = -infinity;
    for (const Vec<2>& p : polygon) {
        low = std::min(low, across.dot(p));
        high = std::max(high, across.dot(p));
        left = std::min(left, along.dot(p));
        right = std::max(right, along.dot(p));
    }
    cairo_save(cairo_->get());
    path(polygon, true);
    cairo_clip(cairo_->get());
    // Multiples of the distance, so that the lines of neighbouring polygons meet.
    for (double s = std::ceil(low / apart) * apart; s <= high; s += apart) {
        const Vec<2> a = s * across + left * along;
        const Vec<2> b = s * across + right * along;
        cairo_move_to(cairo_->get(), a.x(), a.y());
        cairo_line_to(cairo_->get(), b.x(), b.y());
    }
    cairo_->color(color);
    cairo_set_line_width(cairo_->get(), width);
    cairo_stroke(cairo_->get());
    cairo_restore(cairo_->get());
}

void Canvas::stroke(const std::vector<Vec<2>>& points, bool closed, Color color, double width, bool dashed) {
    // A line is a polygon there and back.
    if (closed || points.size() == 2) {
        path(within_reach(points), closed);
    } else {
        for (const Vec<2>& p : points) {
            if (!p.is_finite() || p.abs().largest() > reach) {
                for (std::size_t i = 1; i < points.size(); ++i)
                    line(points[i - 1], points[i], color, width, dashed);
                return;
            }
        }
        path(points, false);
    }
    cairo_->color(color);
    cairo_set_line_width(cairo_->get(), width);
    const double dashes[] = {4.0, 4.0};
    cairo_set_dash(cairo_->get(), dashes, dashed ? 2 : 0, 0.0);
    cairo_stroke(cairo_->get());
    cairo_set_dash(cairo_->get(), dashes, 0, 0.0);
}

void Canvas::line(const Vec<2>& a, const Vec<2>& b, Color color, double width, bool dashed) {
    stroke({a, b}, false, color, width, dashed);
}

void Canvas::disc(const Vec<2>& center, double radius, Color color) {
    if (!center.is_finite() || center.abs().largest() > reach) return;
    cairo_new_path(cairo_->get());
    cairo_arc(cairo_->get(), center.x(), center.y(), radius, 0.0, 2.0 * std::numbers::pi);
    cairo_->color(color);
    cairo_fill(cairo_->get());
}

void Canvas::ring(const Vec<2>& center, double radius, Color color, double width) {
    if (!center.is_finite() || center.abs().largest() > reach) return;
    cairo_new_path(cairo_->get());
    cairo_arc(cairo_->get(), center.x(), center.y(), radius, 0.0, 2.0 * std::numbers::pi);
    cairo_->color(color);
    cairo_set_line_width(cairo_->get(), width);
    cairo_stroke(cairo_->get());
}

void Canvas::cross(const Vec<2>& center, double radius, Color color, double width) {
    line(center + Vec<2>(-radius, -radius), center + Vec<2>(radius, radius), color, width);
    line(center + Vec<2>(-radius, radius), center + Vec<2>(radius, -radius), color, width);
}

void Canvas::square(const Vec<2>& center, double half, Color color, double width) {
    stroke({center + Vec<2>(-half, -half), center + Vec<2>(half, -half), center + Vec<2>(half, half),
            center + Vec<2>(-half, half)},
           true, color, width);
}

void Canvas::rectangle(const Rect& rect, Color color) {
    cairo_rectangle(cairo_->get(), rect.x, rect.y, rect.width, rect.height);
    cairo_->color(color);
    cairo_fill(cairo_->get());
}

double Canvas::text_width(const std::string& text, double size, bool bold) const {
    cairo_->font(size, bold);
    cairo_text_extents_t extents;
    cairo_text_extents(cairo_->get(), text.c_str(), &extents);
    return extents.x_advance;
}

void Canvas::text(const Vec<2>& at, const std::string& text, double size, Color color, Align align,
                  bool bold) {
    const double width = align == Align::left ? 0.0 : text_width(text, size, bold);
    const double shift = align == Align::left ? 0.0 : align == Align::middle ? 0.5 * width : width;
    cairo_->font(size, bold);
    cairo_->color(color);
    cairo_move_to(cairo_->get(), at.x() - shift, at.y());
    cairo_show_text(cairo_->get(), text.c_str());
}

std::string Canvas::fitted(const std::string& text, double size, double width, bool bold) const {
    if (text_width(text, size, bold) <= width) return text;
    std::vector<std::size_t> starts;
    for (std::size_t i = 0; i < text.size(); i = next_character(text, i)) starts.push_back(i);
    for (std::size_t keep = starts.size() - 1; keep > 1; --keep) {
        const std::string head = text.substr(0, starts[(keep + 1) / 2]);
        const std::string tail = text.substr(starts[starts.size() - keep / 2]);
        std::string shorter = head + "…" + tail;
        if (text_width(shorter, size, bold) <= width) return shorter;
    }
    return "…";
}

std::vector<std::string> Canvas::lines(const std::string& text, double size, double width) const {
    std::vector<std::string> result;
    std::string line;
    std::size_t start = 0;
    while (start < text.size()) {
        const std::size_t end = std::min(text.find(' ', start), text.size());
        const std::string word = fitted(text.substr(start, end - start), size, width);
        const std::string longer = line.empty() ? word : line + " " + word;
        if (!line.empty() && text_width(longer, size) > width) {
            result.push_back(line);
            line = word;
        } else {
            line = longer;
        }
        start = end + 1;
    }
    if (!line.empty()) result.push_back(line);
    return result;
}

void Canvas::push_clip(const Rect& rect) {
    cairo_save(cairo_->get());
    cairo_rectangle(cairo_->get(), rect.x, rect.y, rect.width, rect.height);
    cairo_clip(cairo_->get());
}

void Canvas::pop_clip() {
    cairo_restore(cairo_->get());
}

}  // namespace hollow_probe

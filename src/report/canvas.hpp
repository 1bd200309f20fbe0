// Drawing on cairo: polygons, strokes and text in pixels, y down.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "hollow_probe/geometry/vec.hpp"

namespace hollow_probe {

enum class ImageKind { svg, png };
/// By the ending of a file's name. Throws InvalidInput for another than .svg and .png.
ImageKind kind_of_image(const std::string& file_name);

struct Color {
    double red = 0.0;
    double green = 0.0;
    double blue = 0.0;
    double alpha = 1.0;
};

struct Rect {
    double x = 0.0;
    double y = 0.0;
    double width = 0.0;
    double height = 0.0;
};

enum class Align { left, middle, right };

class Canvas {
  public:
    Canvas(ImageKind kind, double width, double height);
    ~Canvas();
    Canvas(const Canvas&) = delete;
    Canvas& operator=(const Canvas&) = delete;

    void fill(const std::vector<Vec<2>>& polygon, Color color);
    /// Parallel lines inside a polygon, at an angle in degrees, some pixels apart.
    void hatch(const std::vector<Vec<2>>& polygon, double angle, double apart, Color color,
               double width = 0.7);
    void stroke(const std::vector<Vec<2>>& points, bool closed, Color color, double width,
                bool dashed = false);
    void line(const Vec<2>& a, const Vec<2>& b, Color color, double width, bool dashed = false);
    void disc(const Vec<2>& center, double radius, Color color);
    void ring(const Vec<2>& center, double radius, Color color, double width);
    void cross(const Vec<2>& center, double radius, Color color, double width);
    void square(const Vec<2>& center, double half, Color color, double width);
    void rectangle(const Rect& rect, Color color);

    /// `at` is on the baseline.
    void text(const Vec<2>& at, const std::string& text, double size, Color color, Align align = Align::left,
              bool bold = false);
    [[nodiscard]] double text_width(const std::string& text, double size, bool bold = false) const;
    /// The text, its middle replaced by … if it is wider than `width`.
    [[nodiscard]] std::string fitted(const std::string& text, double size, double width,
                                     bool bold = false) const;
    /// The text broken into lines no wider than `width`.
    [[nodiscard]] std::vector<std::string> lines(const std::string& text, double size, double width) const;

    /// Everything drawn inside is clipped to a rectangle.
    template <class Draw>
    void clipped(const Rect& rect, Draw draw) {
        push_clip(rect);
        draw();
        pop_clip();
    }

    /// The image's bytes; the canvas is done.
    std::string finish();

  private:
    struct Cairo;
    void push_clip(const Rect& rect);
    void pop_clip();
    void path(const std::vector<Vec<2>>& points, bool closed);

    ImageKind kind_;
    std::string bytes_;
    std::unique_ptr<Cairo> cairo_;
};

}  // namespace hollow_probe

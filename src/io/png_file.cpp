#include "io/png_file.hpp"

#include <png.h>

#include <csetjmp>
#include <cstring>
#include <memory>

#include "hollow_probe/geometry/vec.hpp"
#include "hollow_probe/level/cells.hpp"

namespace hollow_probe {
namespace {

/// What libpng calls back with. Its errors leave by longjmp, so nothing with a destructor lives in the
/// functions between setjmp and libpng.
struct Source {
    std::string_view content;
    std::size_t at = 0;
    char error[200] = "is not a PNG file";
};

void take(png_structp png, png_bytep out, std::size_t count) {
    auto& source = *static_cast<Source*>(png_get_io_ptr(png));
    if (source.content.size() - source.at < count) png_error(png, "is cut short");
    std::memcpy(out, source.content.data() + source.at, count);
    source.at += count;
}

void on_error(png_structp png, png_const_charp message) {
    auto& source = *static_cast<Source*>(png_get_error_ptr(png));
    std::strncpy(source.error, message, sizeof source.error - 1);
    png_longjmp(png, 1);
}

void on_warning(png_structp, png_const_charp) {}

struct Png {
    explicit Png(Source& source) {
        png = png_create_read_struct(PNG_LIBPNG_VER_STRING, &source, on_error, on_warning);
        if (png != nullptr) info = png_create_info_struct(png);
        if (info == nullptr) throw std::bad_alloc();
        png_set_read_fn(png, &source, take);
    }
    Png(const Png&) = delete;
    Png& operator=(const Png&) = delete;
    ~Png() { png_destroy_read_struct(&png, &info, nullptr); }

    png_structp png = nullptr;
    png_infop info = nullptr;
};

bool read_header(Png& p) {
    if (setjmp(png_jmpbuf(p.png)) != 0) return false;
    png_set_user_limits(p.png, 1U << 20U, 1U << 20U);
    png_set_chunk_malloc_max(p.png, 1U << 26U);
    png_read_info(p.png, p.info);
    return true;
}

bool prepare(Png& p, bool as_heights) {
    if (setjmp(png_jmpbuf(p.png)) != 0) return false;
    if (as_heights) {
        if (png_get_bit_depth(p.png, p.info) < 8) png_set_expand_gray_1_2_4_to_8(p.png);
        png_set_strip_alpha(p.png);
        png_set_expand_16(p.png);
        png_set_swap(p.png);  // PNG has the high byte first
    } else {
        png_set_expand(p.png);
        png_set_strip_16(p.png);
        png_set_gray_to_rgb(p.png);
        png_set_add_alpha(p.png, 0xFF, PNG_FILLER_AFTER);
    }
    png_set_interlace_handling(p.png);
    png_read_update_info(p.png, p.info);
    return true;
}

bool read_rows(Png& p, png_bytepp rows) {
    if (setjmp(png_jmpbuf(p.png)) != 0) return false;
    png_read_image(p.png, rows);
    png_read_end(p.png, nullptr);
    return true;
}

template <class Pixel>
Picture<Pixel> read(std::string_view content, const std::string& path, bool as_heights) {
    Source source{content};
    const auto fail = [&](const std::string& why) { throw InvalidInput("picture '" + path + "' " + why); };
    const auto fail_as_told = [&] { fail(std::string("cannot be read: ") + source.error); };
    if (content.size() < 8 || png_sig_cmp(reinterpret_cast<png_const_bytep>(content.data()), 0, 8) != 0) {
        fail("is not a PNG file");
    }
    Png p(source);
    if (!read_header(p)) fail_as_told();
    Picture<Pixel> picture;
    picture.columns = png_get_image_width(p.png, p.info);
    picture.rows = png_get_image_height(p.png, p.info);
    if (picture.columns > most_cells / picture.rows) {
        fail("has more than " + std::to_string(most_cells) + " pixels");
    }
    if (as_heights && (png_get_color_type(p.png, p.info) & PNG_COLOR_MASK_COLOR) != 0) {
        fail("is coloured: expected a greyscale picture, 16 bits a pixel at best");
    }
    if (!prepare(p, as_heights)) fail_as_told();
    if (png_get_rowbytes(p.png, p.info) != picture.columns * sizeof(Pixel))
        fail("has pixels of a strange size");
    picture.pixels.resize(picture.columns * picture.rows);
    std::vector<png_bytep> rows(picture.rows);
    for (std::size_t row = 0; row < picture.rows; ++row) {
        rows[row] = reinterpret_cast<png_bytep>(picture.pixels.data() + row * picture.columns);
    }
    if (!read_rows(p, rows.data())) fail_as_told();
    return picture;
}

}  // namespace

Picture<std::uint32_t> colors_from_png(std::string_view content, const std::string& path) {
    auto picture = read<std::uint32_t>(content, path, false);
    for (std::uint32_t& pixel : picture.pixels) {
        std::array<std::uint8_t, 4> bytes{};
        std::memcpy(bytes.data(), &pixel, 4);
        pixel = std::uint32_t{bytes[0]} << 24U | std::uint32_t{bytes[1]} << 16U |
                std::uint32_t{bytes[2]} << 8U | bytes[3];
    }
    return picture;
}

Picture<std::uint16_t> heights_from_png(std::string_view content, const std::string& path) {
    return read<std::uint16_t>(content, path, true);
}

}  // namespace hollow_probe

// STL: 80 bytes of header, a count and 50 bytes a triangle; or text: solid, facet, outer loop, vertex.
#include <fmt/format.h>

#include <charconv>
#include <cstring>
#include <unordered_map>

#include "io/mesh_parts.hpp"

namespace hollow_probe {
namespace {

/// Corners at exactly the same place become one vertex.
class Welder {
  public:
    std::uint32_t vertex(const Vec<3>& at) {
        const auto [place, is_new] = known_.try_emplace(at, static_cast<std::uint32_t>(mesh.vertices.size()));
        if (is_new) mesh.vertices.push_back(at);
        return place->second;
    }
    TriangleMesh mesh;

  private:
    struct Hash {
        std::size_t operator()(const Vec<3>& v) const {
            std::size_t hash = 0;
            for (int axis = 0; axis < 3; ++axis) {
                hash = hash * 0x9E3779B97F4A7C15ULL + std::hash<double>()(v[axis]);
            }
            return hash;
        }
    };
    struct Same {
        bool operator()(const Vec<3>& a, const Vec<3>& b) const { return a == b; }
    };
    std::unordered_map<Vec<3>, std::uint32_t, Hash, Same> known_;
};

constexpr std::size_t header_bytes = 84;
constexpr std::size_t triangle_bytes = 50;

std::uint32_t count_in_header(std::string_view content) {
    std::uint32_t count = 0;
    std::memcpy(&count, content.data() + 80, sizeof count);
    return count;
}

TriangleMesh read_binary(std::string_view content, const std::string& path) {
    const std::size_t count = count_in_header(content);
    const std::size_t expected = header_bytes + triangle_bytes * count;
    if (content.size() < expected) {
        fail_mesh(path, fmt::format("is cut short: {} triangles need {} bytes, it has {}", count, expected,
                                    content.size()));
    }
    if (count > most_mesh_triangles)
        fail_mesh(path, fmt::format("has more than {} triangles", most_mesh_triangles));
    Welder welder;
    for (std::size_t i = 0; i < count; ++i) {
        std::array<float, 9> corners{};
        std::memcpy(corners.data(), content.data() + header_bytes + triangle_bytes * i + 12, sizeof corners);
        std::array<std::uint32_t, 3> triangle{};
        for (std::size_t k = 0; k < 3; ++k) {
            const Vec<3> at(corners[3 * k], corners[3 * k + 1], corners[3 * k + 2]);
            if (!at.is_finite()) {
                fail_mesh(path, fmt::format("has a corner that is not finite in triangle {}", i + 1));
            }
            triangle[k] = welder.vertex(at);
        }
        welder.mesh.triangles.push_back(triangle);
    }
    return std::move(welder.mesh);
}

/// The words of a text, with their places.
class Words {
  public:
    Words(std::string_view text, const std::string& path) : text_(text), path_(path) {}

    /// Empty at the end.
    std::string_view next() {
        while (at_ < text_.size() && is_space(text_[at_])) step();
        word_line_ = line_;
        word_column_ = column_;
        const std::size_t first = at_;
        while (at_ < text_.size() && !is_space(text_[at_])) step();
        return text_.substr(first, at_ - first);
    }
    void rest_of_line() {
        while (at_ < text_.size() && text_[at_] != '\n') step();
    }
    void expect(std::string_view wanted) {
        const std::string_view word = next();
        if (word != wanted) fail(word, fmt::format("'{}'", wanted));
    }
    double number() {
        const std::string_view word = next();
        double value = 0.0;
        const char* first = word.data() + (word.starts_with('+') ? 1 : 0);
        const auto [end, error] = std::from_chars(first, word.data() + word.size(), value);
        if (error != std::errc() || end != word.data() + word.size() || !std::isfinite(value)) {
            fail(word, "a finite number");
        }
        return value;
    }
    [[noreturn]] void fail(std::string_view word, const std::string& expected) const {
        const std::string shown =
            word.empty() ? "the end of the file" : fmt::format("'{}'", word.substr(0, 40));
        fail_mesh(path_, word_line_, word_column_, fmt::format("found {}, expected {}", shown, expected));
    }

  private:
    static bool is_space(char c) { return c == ' ' || c == '\t' || c == '\n' || c == '\r'; }
    void step() {
        if (text_[at_++] == '\n') {
            ++line_;
            column_ = 1;
        } else {
            ++column_;
        }
    }
    std::string_view text_;
    const std::string& path_;
    std::size_t at_ = 0;
    std::size_t line_ = 1;
    std::size_t column_ = 1;
    std::size_t word_line_ = 1;
    std::size_t word_column_ = 1;
};

void read_text(std::string_view content, const std::string& path, PartList& parts) {
    Words words(content, path);
    words.expect("solid");
    for (;;) {
        words.rest_of_line();
        Welder welder;
        for (;;) {
            const std::string_view word = words.next();
            if (word == "endsolid") break;
            if (word != "facet") words.fail(word, "'facet' or 'endsolid'");
            words.expect("normal");
            for (int i = 0; i < 3; ++i) (void)words.next();  // often wrong, so the corners decide
            words.expect("outer");
            words.expect("loop");
            std::array<std::uint32_t, 3> triangle{};
            for (std::uint32_t& corner : triangle) {
                words.expect("vertex");
                const double x = words.number();
                const double y = words.number();
                corner = welder.vertex({x, y, words.number()});
            }
            words.expect("endloop");
            words.expect("endfacet");
            welder.mesh.triangles.push_back(triangle);
        }
        parts.add({parts.stem(), "", std::move(welder.mesh), {}});
        words.rest_of_line();
        const std::string_view word = words.next();
        if (word.empty()) return;
        if (word != "solid") words.fail(word, "'solid' or the end of the file");
    }
}

}  // namespace

std::vector<MeshPart> parts_from_stl(std::string_view content, const std::string& path) {
    PartList parts(path);
    // Some binary files start with the word "solid", too: the size tells.
    const bool is_binary = content.size() >= header_bytes &&
                           (content.size() == header_bytes + triangle_bytes * count_in_header(content) ||
                            !content.starts_with("solid"));
    if (is_binary) {
        parts.add({parts.stem(), "", read_binary(content, path), {}});
    } else {
        read_text(content, path, parts);
    }
    return parts.finish("an STL file with at least one facet");
}

}  // namespace hollow_probe

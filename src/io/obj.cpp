// Wavefront OBJ, as far as it says where surfaces are.
#include <fmt/format.h>

#include <charconv>
#include <map>
#include <unordered_map>

#include "hollow_probe/geometry/polygon.hpp"
#include "io/mesh_parts.hpp"

namespace hollow_probe {
namespace {

using Face = std::vector<std::uint32_t>;

constexpr std::size_t most_face_corners = 10'000;

/// Cuts a face into triangles: a fan where it is convex, along ears where it is not. A face that crosses
/// itself stays a fan.
void cut(const std::vector<Vec<3>>& vertices, const Face& face,
         std::vector<std::array<std::uint32_t, 3>>& out) {
    const auto fan = [&](const Face& corners) {
        for (std::size_t i = 2; i < corners.size(); ++i)
            out.push_back({corners[0], corners[i - 1], corners[i]});
    };
    if (face.size() == 3) return fan(face);
    Vec<3> normal = Vec<3>::zero();  // Newell's sum
    for (std::size_t i = 0; i < face.size(); ++i) {
        normal += (vertices[face[i]] - vertices[face[0]])
                      .cross(vertices[face[(i + 1) % face.size()]] - vertices[face[0]]);
    }
    if (!(normal.norm() > 0.0) || !normal.is_finite()) return fan(face);
    normal.normalize();
    const Vec<3> right = normal.unit_across();
    const Vec<3> ahead = normal.cross(right);
    std::vector<Vec<2>> flat;
    for (const std::uint32_t v : face) {
        const Vec<3> p = vertices[v] - vertices[face[0]];
        flat.emplace_back(right.dot(p), ahead.dot(p));
    }
    bool convex = true;
    for (std::size_t i = 0; i < flat.size(); ++i) {
        const Vec<2> a = flat[(i + 1) % flat.size()] - flat[i];
        const Vec<2> b = flat[(i + 2) % flat.size()] - flat[(i + 1) % flat.size()];
        convex = convex && a.x() * b.y() - a.y() * b.x() >= 0.0;
    }
    if (convex) return fan(face);
    std::map<std::pair<double, double>, std::uint32_t> at;
    for (std::size_t i = 0; i < flat.size(); ++i) at.emplace(std::pair(flat[i].x(), flat[i].y()), face[i]);
    try {
        for (const auto& part : convex_parts(flat)) {
            Face corners;
            for (const Vec<2>& p : part) corners.push_back(at.at({p.x(), p.y()}));
            fan(corners);
        }
    } catch (const InvalidInput&) {
        fan(face);
    }
}

class ObjReader {
  public:
    ObjReader(std::string_view content, const std::string& path)
        : content_(content), path_(path), parts_(path) {}

    std::vector<MeshPart> read() {
        while (!content_.empty()) {
            ++line_;
            const std::size_t end = content_.find('\n');
            text_ = content_.substr(0, end);
            content_ = end == std::string_view::npos ? std::string_view() : content_.substr(end + 1);
            if (text_.ends_with('\r')) text_.remove_suffix(1);
            at_ = 0;
            read_line();
        }
        finish_part();
        return parts_.finish("an OBJ file with at least one face");
    }

  private:
    void read_line() {
        const std::string_view word = next();
        if (word == "v") {
            const double x = number();
            const double y = number();
            vertices_.emplace_back(x, y, number());
        } else if (word == "f") {
            read_face();
        } else if (word == "o" || word == "g") {
            finish_part();
            while (at_ < text_.size() && is_space(text_[at_])) ++at_;
            name_ = std::string(text_.substr(at_));
        }
        // Whatever else there is says nothing about surfaces.
    }

    void read_face() {
        face_.clear();
        for (std::string_view word = next(); !word.empty(); word = next()) {
            const std::string_view index = word.substr(0, word.find('/'));
            std::int64_t value = 0;
            const auto [end, error] = std::from_chars(index.data(), index.data() + index.size(), value);
            const auto count = static_cast<std::int64_t>(vertices_.size());
            if (error != std::errc() || end != index.data() + index.size() || value == 0) {
                fail(fmt::format("found '{}', expected the number of a vertex", word.substr(0, 40)));
            }
            const std::int64_t vertex = value > 0 ? value - 1 : count + value;
            if (vertex < 0 || vertex >= count) {
                fail(fmt::format("names vertex {}, but there are {} so far", value, count));
            }
            face_.push_back(static_cast<std::uint32_t>(vertex));
            if (face_.size() > most_face_corners) {
                fail(fmt::format("the face has more than {} corners", most_face_corners));
            }
        }
        if (face_.size() < 3) fail(fmt::format("the face has {} corners, expected at least 3", face_.size()));
        cut(vertices_, face_, triangles_);
        if (triangles_.size() > most_mesh_triangles) {
            fail(fmt::format("the file has more than {} triangles", most_mesh_triangles));
        }
    }

    /// Moves the triangles so far to a part with vertices of its own.
    void finish_part() {
        MeshPart part;
        part.name = name_;
        std::unordered_map<std::uint32_t, std::uint32_t> own;
        for (auto triangle : triangles_) {
            for (std::uint32_t& corner : triangle) {
                const auto [place, is_new] =
                    own.try_emplace(corner, static_cast<std::uint32_t>(part.mesh.vertices.size()));
                if (is_new) part.mesh.vertices.push_back(vertices_[corner]);
                corner = place->second;
            }
            part.mesh.triangles.push_back(triangle);
        }
        triangles_.clear();
        parts_.add(std::move(part));
    }

    static bool is_space(char c) { return c == ' ' || c == '\t'; }

    std::string_view next() {
        while (at_ < text_.size() && is_space(text_[at_])) ++at_;
        word_ = at_;
        while (at_ < text_.size() && !is_space(text_[at_])) ++at_;
        const std::string_view word = text_.substr(word_, at_ - word_);
        if (!word.starts_with('#')) return word;
        at_ = text_.size();
        return {};
    }

    double number() {
        const std::string_view word = next();
        double value = 0.0;
        const char* first = word.data() + (word.starts_with('+') ? 1 : 0);
        const auto [end, error] = std::from_chars(first, word.data() + word.size(), value);
        if (word.empty() || error != std::errc() || end != word.data() + word.size() ||
            !std::isfinite(value)) {
            fail(fmt::format("found '{}', expected a finite number", word.substr(0, 40)));
        }
        return value;
    }

    [[noreturn]] void fail(const std::string& why) const { fail_mesh(path_, line_, word_ + 1, why); }

    std::string_view content_;
    const std::string& path_;
    PartList parts_;
    std::string_view text_;
    std::size_t at_ = 0;
    std::size_t word_ = 0;
    std::size_t line_ = 0;
    std::string name_;
    std::vector<Vec<3>> vertices_;
    std::vector<std::array<std::uint32_t, 3>> triangles_;
    Face face_;
};

}  // namespace

std::vector<MeshPart> parts_from_obj(std::string_view content, const std::string& path) {
    // What some editors put before the first letter is no part of it.
    if (content.starts_with("\xEF\xBB\xBF")) content.remove_prefix(3);
    return ObjReader(content, path).read();
}

}  // namespace hollow_probe

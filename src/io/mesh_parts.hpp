// What the readers of mesh files share.
#pragma once

#include <string>
#include <unordered_map>
#include <unordered_set>

#include "hollow_probe/io/mesh_file.hpp"

namespace hollow_probe {

/// Collects parts, leaving out empty ones and telling apart those of one name.
class PartList {
  public:
    explicit PartList(std::string path) : path_(std::move(path)) {}

    void add(MeshPart part);
    /// Throws if there is no part, or too many triangles.
    std::vector<MeshPart> finish(const char* what);
    [[nodiscard]] std::string stem() const;

  private:
    std::string path_;
    std::size_t triangles_ = 0;
    std::vector<MeshPart> parts_;
    std::unordered_set<std::string> names_;
    std::unordered_map<std::string, std::size_t> next_;  // by name: the number to be tried next
};

[[noreturn]] void fail_mesh(const std::string& path, const std::string& why);
/// … at a place in a text file, both counted from 1.
[[noreturn]] void fail_mesh(const std::string& path, std::size_t line, std::size_t column,
                            const std::string& why);

}  // namespace hollow_probe

#include "fuzz.hpp"
#include "hollow_probe/io/mesh_file.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    return hollow_probe::fuzz::run(data, size, [](std::string_view text) {
        for (const auto& part : hollow_probe::parts_from_obj(text, "nowhere/fuzz.obj")) {
            for (const auto& triangle : part.mesh.triangles) {
                for (const std::uint32_t corner : triangle) {
                    if (!part.mesh.vertices.at(corner).is_finite()) std::abort();
                }
            }
        }
    });
}

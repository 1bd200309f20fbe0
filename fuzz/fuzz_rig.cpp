#include "fuzz.hpp"
#include "hollow_probe/io/rig_file.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    using namespace hollow_probe;
    static const Level<2> level = LevelBuilder<2>({"masonry", "grating", "debris"})
                                      .add("floor", "masonry", RoundedHull<2>::box({0.0, 0.0}, {1.0, 1.0}))
                                      .build();
    return fuzz::run(data, size, [](std::string_view text) {
        (void)rig_from_toml<2>(std::string(text), "nowhere/fuzz.rig.toml", level);
    });
}

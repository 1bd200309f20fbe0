// Truths kept in a folder from one survey to the next.
#pragma once

#include <fmt/format.h>

#include <filesystem>

#include "common.hpp"
#include "hollow_probe/io/atomic_file.hpp"
#include "hollow_probe/level/content_hash.hpp"
#include "hollow_probe/verify/kept_truths.hpp"
#include "parts.hpp"

namespace hollow_probe::tool {

/// One level's truths in a folder, in a file named by all that they depend on but body and intent.
template <int D>
class KeptOnDisk {
  public:
    /// Reads what is there for this level, region and build; without a folder keeps nothing on disk. What is
    /// damaged is told and found anew.
    KeptOnDisk(const std::string& folder, const Level<D>& level, const SurveyFlags& flags) {
        if (folder.empty()) return;
        const std::string build = build_name();
        if (build.empty()) throw InputError("--keep: this build cannot be told from others here");
        std::error_code error;
        std::filesystem::create_directories(folder, error);
        if (error) throw InputError(folder + ":1:1: cannot be made: " + error.message());
        std::string of = content_hash<D>(level) + build + "|" + flags.area;
        for (const double number : flags.region) of += fmt::format("|{}", number);
        path_ = (std::filesystem::path(folder) / (content_hash(of) + ".truths")).string();
        if (!std::filesystem::exists(path_)) return;
        constexpr std::size_t most_bytes = std::size_t{4} << 30U;
        try {
            kept = KeptTruths<D>::from_bytes(read_file(path_, most_bytes));
            bytes_before_ = kept.bytes();
        } catch (const InvalidInput& damage) {
            fmt::print(stderr, "hollow-probe: {}: {}: truths are found anew\n", path_, damage.what());
        }
    }

    /// Writes down what is kept, if there is more than there was.
    void save() const {
        if (!path_.empty() && kept.bytes() > bytes_before_) write_file(path_, kept.to_bytes());
    }

    KeptTruths<D> kept;

  private:
    std::string path_;
    std::size_t bytes_before_ = 0;
};

}  // namespace hollow_probe::tool

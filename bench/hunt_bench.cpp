// Hunts held against play at random: planted exploits, and the ticks until each is found.
// Usage: hunt_bench [SEEDS [TICKS [PART-OF-A-NAME]]]; standard: 10 seeds, 2 million ticks.
#include <fmt/format.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <cstdio>
#include <cstdlib>

#include "exploits.hpp"
#include "hollow_probe/motion/hunt.hpp"

namespace hollow_probe::bench {
namespace {

struct Runs {
    std::vector<double> searched;  // ticks until found; infinite where it was not
    std::vector<double> random;
};

template <int D>
double ticks_until_found(const Exploit<D>& exploit, std::uint64_t seed, std::size_t most, bool at_random) {
    HuntOptions options;
    options.seed = seed;
    options.most_ticks = most;
    options.threads = 1;
    options.at_random = at_random;
    const HuntResult<D> result = hunt<D>(exploit.level, exploit.rig, exploit.drill, options);
    return result.found ? static_cast<double>(result.ticks) : infinity;
}

double median(std::vector<double> numbers) {
    std::sort(numbers.begin(), numbers.end());
    return numbers[numbers.size() / 2];
}

std::size_t found(const std::vector<double>& ticks) {
    return static_cast<std::size_t>(
        std::count_if(ticks.begin(), ticks.end(), [](double t) { return std::isfinite(t); }));
}

std::string thousands(double ticks) {
    return std::isfinite(ticks) ? fmt::format("{:.0f}", ticks / 1000.0) : "-";
}

int run(std::size_t seeds, std::size_t most, const std::string& part) {
    std::vector<AnyExploit> exploits = planted_exploits();
    std::erase_if(exploits, [&](const AnyExploit& one) {
        return std::visit([&](const auto& e) { return e.name.find(part) == std::string::npos; }, one);
    });
    std::vector<Runs> all(exploits.size(), {std::vector<double>(seeds), std::vector<double>(seeds)});
    tbb::parallel_for(std::size_t{0}, exploits.size() * seeds * 2, [&](std::size_t i) {
        const std::size_t seed = i / 2 % seeds;
        Runs& runs = all[i / 2 / seeds];
        const bool at_random = i % 2 == 1;
        (at_random ? runs.random : runs.searched)[seed] =
            std::visit([&](const auto& exploit) { return ticks_until_found(exploit, seed, most, at_random); },
                       exploits[i / 2 / seeds]);
    });
    fmt::print("{} seeds, {} ticks at most; found, and the median of ticks in thousands\n", seeds, most);
    fmt::print("{:<62} {:>9} {:>9} {:>9} {:>9}\n", "", "searched", "ticks", "random", "ticks");
    std::size_t all_found = 0;
    std::vector<double> parts;  // of the ticks that random play needs, where it finds
    for (std::size_t i = 0; i < exploits.size(); ++i) {
        const Runs& runs = all[i];
        const std::string name = std::visit([](const auto& e) { return e.name; }, exploits[i]);
        const double searched = median(runs.searched);
        const double random = median(runs.random);
        fmt::print("{:<62} {:>6}/{:<2} {:>9} {:>6}/{:<2} {:>9}\n", name, found(runs.searched), seeds,
                   thousands(searched), found(runs.random), seeds, thousands(random));
        all_found += found(runs.searched);
        if (std::isfinite(random)) parts.push_back(searched / random);
    }
    const double share = static_cast<double>(all_found) / static_cast<double>(seeds * exploits.size());
    fmt::print("found {:.1f} % of all; ", 100.0 * share);
    if (!parts.empty()) {
        fmt::print("ticks beside random play, where that finds: median {:.2f}, at worst {:.2f}",
                   median(parts), *std::max_element(parts.begin(), parts.end()));
    }
    fmt::print("\n");
    return 0;
}

}  // namespace
}  // namespace hollow_probe::bench

int main(int count, char** words) {
    const auto number = [&](int at, std::size_t standard) {
        return count > at ? std::strtoull(words[at], nullptr, 10) : standard;
    };
    return hollow_probe::bench::run(number(1, 10), number(2, 2'000'000), count > 3 ? words[3] : "");
}

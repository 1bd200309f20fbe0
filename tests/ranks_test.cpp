// Ranks that share work, one of which fails at it. Run by ranks_test.py, under mpirun: says what came of it.
#include "ranks.hpp"

#include <cstdio>
#include <cstdlib>
#include <stdexcept>
#include <string>

#include "hollow_probe/verify/survey.hpp"

using namespace hollow_probe;

int main(int argc, char** argv) {
    const std::string how = argc > 1 ? argv[1] : "well";
    tool::Ranks ranks = tool::Ranks::join();
    const char* const number = std::getenv("OMPI_COMM_WORLD_RANK");
    const bool is_second = number != nullptr && std::string(number) == "1";
    const WorkSharing sharing = ranks.sharing();
    std::string error;
    bool right = ranks.count() == 1 || sharing != nullptr;
    // Many stages, of none to many pieces, with homes of all kinds.
    for (std::size_t stage = 0; stage < 60 && sharing && error.empty(); ++stage) {
        std::vector<std::size_t> homes(stage * 7 % 50);
        for (std::size_t i = 0; i < homes.size(); ++i) homes[i] = stage % 3 == 0 ? 5 : i * stage;
        try {
            const auto all = sharing(homes, [&](std::size_t piece) {
                if (how == "fails" && is_second && stage >= 20) throw std::runtime_error("planted");
                if (how == "all fail" && stage == 20) throw std::runtime_error("planted");
                if (how == "stopped" && is_second && stage >= 20) throw SurveyStopped();
                return std::string(piece * 31 % 97, static_cast<char>('a' + (piece + stage) % 26));
            });
            right = right && all.size() == homes.size();
            for (std::size_t i = 0; i < all.size(); ++i)
                right =
                    right && all[i] == std::string(i * 31 % 97, static_cast<char>('a' + (i + stage) % 26));
        } catch (const std::exception& thrown) {
            error = thrown.what();
        }
    }
    if (how == "alone" && is_second) error = "planted outside of the work";
    if (how == "alone" && !is_second && sharing)
        (void)sharing({0, 1}, [](std::size_t) { return std::string(); });
    std::printf("%s: %s\n", right ? "right" : "wrong", error.empty() ? "well" : error.c_str());
    std::fflush(stdout);
    ranks.leave(error);
    return right ? 0 : 1;
}

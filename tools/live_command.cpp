// hollow-probe live: one page, answered by the library, to change and play a rig by hand.
#include <fmt/format.h>
#include <spawn.h>
#include <sys/wait.h>

#include <chrono>
#include <csignal>
#include <cstdio>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>

#include "common.hpp"
#include "hollow_probe/report/live.hpp"
#include "interrupt.hpp"
#include "live_server.hpp"

namespace hollow_probe::tool {
namespace {

struct LiveArguments {
    LiveFiles files;
    int port = 0;
    bool opens = false;
    int threads = 0;
    std::optional<std::size_t> budget;
};

/// Without one that opens addresses the address is there to be copied.
void open_in_browser(const std::string& address) {
    std::string program = "xdg-open";
    std::string argument = address;
    std::array<char*, 3> words = {program.data(), argument.data(), nullptr};
    pid_t child = 0;
    if (posix_spawnp(&child, program.c_str(), nullptr, nullptr, words.data(), environ) != 0)
        fmt::print(stderr, "live: no xdg-open here: open the address by hand\n");
}

int run(const LiveArguments& arguments) {
    using namespace std::chrono_literals;
    Interrupt interrupt;
    // The bench may tell news before there is a server, and while it ends.
    std::mutex telling;
    LiveServer* listener = nullptr;
    LiveOptions options;
    options.threads = arguments.threads;
    if (arguments.budget) options.budget = *arguments.budget;
    LiveBench bench(arguments.files, options, [&](const std::string& news) {
        const std::lock_guard lock(telling);
        if (listener != nullptr) listener->tell(news);
    });
    LiveServer server(arguments.port,
                      LiveService{[&] { return bench.page(); },
                                  [&](const std::string& question) { return bench.answer(question); }});
    const auto listen = [&](LiveServer* to) {
        const std::lock_guard lock(telling);
        listener = to;
    };
    listen(&server);
    fmt::print("{}\n", server.address());
    std::fflush(stdout);
    if (arguments.opens) open_in_browser(server.address());
    while (!interrupt.came()) {
        std::this_thread::sleep_for(200ms);
        bench.look_at_files();
    }
    listen(nullptr);
    return all_well;
}

}  // namespace

void add_live_command(Commands& commands) {
    auto arguments = std::make_shared<LiveArguments>();
    Command command =
        commands.add("live", "Change, look at and play a rig by hand, on a page in the browser");
    LiveFiles& files = arguments->files;
    command.option("level", files.level, "The level file").required().takes("LEVEL");
    command.option("rig", files.rig, "The rig file; saving writes it").required().takes("RIG");
    command.option("drill", files.drill, "A drill: how bodies are moved in play, and where they start")
        .takes("DRILL");
    command.option("--before", files.before, "The rig to hold it against; standard: as it is now")
        .takes("RIG");
    command.option("--record", files.record, "Where drills that were played may be written").takes("FILE");
    command.option("--port", arguments->port, "The port on 127.0.0.1; 0 takes a free one")
        .within(0, 65535)
        .with_default()
        .takes("N");
    command.flag("--open", arguments->opens, "Open the page in the browser");
    command
        .option("--budget", arguments->budget,
                "About how many poses the map of verdicts judges; standard: 40000")
        .positive()
        .takes("N");
    command.option("--threads", arguments->threads, "Threads to use, 0 for all cores")
        .within(0, 1024)
        .with_default()
        .takes("N");
    command.runs([arguments] {
        CommonOptions none;
        check_outputs(none, {arguments->files.rig, arguments->files.record});
        return run(*arguments);
    });
}

}  // namespace hollow_probe::tool

// Ctrl-C, asked for where it suits.
#pragma once

#include <atomic>
#include <chrono>
#include <csignal>

namespace hollow_probe::tool {

/// While it lives SIGINT does not end the process: it is asked for. To be made before any thread is started,
/// which would get the signal otherwise.
class Interrupt {
  public:
    Interrupt();
    ~Interrupt();
    Interrupt(const Interrupt&) = delete;
    Interrupt& operator=(const Interrupt&) = delete;

    /// Whether it came since this was made, told some milliseconds late; from any thread, and as often as one
    /// likes. The next one, a fifth of a second later or more, then ends the process.
    [[nodiscard]] bool came();

  private:
    bool look();

    sigset_t before_{};
    int file_ = -1;
    std::atomic<bool> came_ = false;
    std::atomic<std::chrono::steady_clock::time_point> look_again_ = {};
};

}  // namespace hollow_probe::tool

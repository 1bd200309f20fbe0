#include "interrupt.hpp"

#include <sys/signalfd.h>
#include <unistd.h>

#include <chrono>
#include <thread>

namespace hollow_probe::tool {

namespace {

bool is_sent(int file) {
    signalfd_siginfo info{};
    bool any = false;
    while (file >= 0 && read(file, &info, sizeof(info)) == static_cast<ssize_t>(sizeof(info))) any = true;
    return any;
}

}  // namespace

Interrupt::Interrupt() {
    sigset_t interrupts;
    sigemptyset(&interrupts);
    sigaddset(&interrupts, SIGINT);
    pthread_sigmask(SIG_BLOCK, &interrupts, &before_);
    file_ = signalfd(-1, &interrupts, SFD_NONBLOCK | SFD_CLOEXEC);
}

Interrupt::~Interrupt() {
    (void)look();  // or it would end the process now
    if (file_ >= 0) close(file_);
    pthread_sigmask(SIG_SETMASK, &before_, nullptr);
}

bool Interrupt::came() {
    // Surveys ask before each of many short pieces of work, some of which take no longer than to look.
    constexpr std::chrono::milliseconds rarely(10);
    const auto now = std::chrono::steady_clock::now();
    if (now < look_again_.load(std::memory_order_relaxed)) return came_;
    look_again_.store(now + rarely, std::memory_order_relaxed);
    return look();
}

bool Interrupt::look() {
    if (!is_sent(file_)) return came_;
    came_ = true;
    // One wish to stop may be sent twice, to the process and to its group: that is no second one.
    std::this_thread::sleep_for(std::chrono::milliseconds(200));
    (void)is_sent(file_);
    // Whatever the answer to this one is busy with.
    pthread_sigmask(SIG_SETMASK, &before_, nullptr);
    return true;
}

}  // namespace hollow_probe::tool

#include "interrupt.hpp"

#include <sys/signalfd.h>
#include <unistd.h>

namespace hollow_probe::tool {

Interrupt::Interrupt() {
    sigset_t interrupts;
    sigemptyset(&interrupts);
    sigaddset(&interrupts, SIGINT);
    pthread_sigmask(SIG_BLOCK, &interrupts, &before_);
    file_ = signalfd(-1, &interrupts, SFD_NONBLOCK | SFD_CLOEXEC);
}

Interrupt::~Interrupt() {
    (void)came();  // or it would end the process now
    if (file_ >= 0) close(file_);
    pthread_sigmask(SIG_SETMASK, &before_, nullptr);
}

bool Interrupt::came() {
    signalfd_siginfo info{};
    while (file_ >= 0 && read(file_, &info, sizeof(info)) == static_cast<ssize_t>(sizeof(info))) {
        came_ = true;
        // Whatever the answer to this one is busy with.
        pthread_sigmask(SIG_SETMASK, &before_, nullptr);
    }
    return came_;
}

}  // namespace hollow_probe::tool

// A search that runs beside everything else, and can be stopped: one at a time.
#pragma once

#include <atomic>
#include <functional>
#include <thread>

#include "io/json.hpp"

namespace hollow_probe {

class LiveSearch {
  public:
    using Tell = std::function<void(const Json&)>;
    /// Says what is new: its name, and its data.
    using Say = std::function<void(const char*, Json)>;

    explicit LiveSearch(Tell tell) : tell_(std::move(tell)) {}
    ~LiveSearch() { stop(); }
    LiveSearch(const LiveSearch&) = delete;
    LiveSearch& operator=(const LiveSearch&) = delete;
    LiveSearch(LiveSearch&&) = delete;
    LiveSearch& operator=(LiveSearch&&) = delete;

    /// Ends the one under way, if there is one. `work` is to end soon after stopped() says so. What it throws
    /// is told as what `ends` names: {"refused": "why"}.
    void start(std::size_t revision, const char* ends, std::function<void(const Say&)> work) {
        stop();
        stops_ = false;
        thread_ = std::thread([this, revision, ends, work = std::move(work)] {
            const Say say = [&](const char* what, Json data) {
                tell_({{"tell", what}, {"revision", revision}, {"data", std::move(data)}});
            };
            try {
                work(say);
            } catch (const std::exception& error) {
                say(ends, {{"refused", stopped() ? "stopped" : error.what()}});
            }
        });
    }
    void stop() {
        stops_ = true;
        if (thread_.joinable()) thread_.join();
    }
    [[nodiscard]] bool stopped() const { return stops_.load(); }

  private:
    Tell tell_;
    std::atomic<bool> stops_{false};
    std::thread thread_;
};

}  // namespace hollow_probe

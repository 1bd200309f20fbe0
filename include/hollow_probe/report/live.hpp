// The live bench: one rig on one level, changed, looked at and played by hand, and every answer at once.
#pragma once

#include <functional>
#include <memory>
#include <string>

namespace hollow_probe {

struct LiveFiles {
    std::string level;
    std::string rig;     // read, watched, and written when the page says so
    std::string before;  // a rig to hold it against; empty: as it was at the start
    std::string drill;   // how bodies move, where they start; empty: by `slide`, from where the body stands
    std::string record;  // where drills that were played are written; empty: nowhere
};

struct LiveOptions {
    /// About how many poses the verdict map judges. Advice is given for as many as `survey` judges.
    std::size_t budget = 40'000;
    int threads = 0;  // 0: all cores
};

/// What a page of the live bench asks and is told, without any network: questions and answers are JSON
/// objects, as docs/live.md has them. All pages that are told by one bench see the same rig.
///
///     LiveBench bench({"culvert.level.toml", "keeper.rig.toml"}, {}, [&](const std::string& news) {
///     send(news); }); const std::string answer = bench.answer(R"({"ask": "pose", "pose": {"at": [3.0,
///     0.0]}})");
class LiveBench {
  public:
    /// `tell` is given what is new for all pages, from any thread, one call at a time. Throws InputError for
    /// files that cannot be read.
    LiveBench(LiveFiles files, const LiveOptions& options, std::function<void(const std::string&)> tell);
    /// Ends what is being worked out.
    ~LiveBench();
    LiveBench(const LiveBench&) = delete;
    LiveBench& operator=(const LiveBench&) = delete;
    LiveBench(LiveBench&&) = delete;
    LiveBench& operator=(LiveBench&&) = delete;

    /// The page. What it shows of a level, it holds; everything else it asks for.
    [[nodiscard]] std::string page() const;
    /// Answers a question, from any thread. A question that is none, or asks for what cannot be, is answered
    /// by why: {"refused": "…"}. Throws nothing.
    std::string answer(const std::string& question) noexcept;
    /// Looks whether level, rig or drill have changed on disk, and takes over what has; to be called now and
    /// then.
    void look_at_files();

  private:
    struct Room;
    std::unique_ptr<Room> room_;
};

}  // namespace hollow_probe

#include "ranks.hpp"

#include <cstdlib>

#ifdef HOLLOW_PROBE_MPI
#include <mpi.h>
#include <tbb/parallel_for.h>
#include <tbb/task_arena.h>

#include <algorithm>
#include <array>
#include <atomic>
#include <chrono>
#include <csignal>
#include <cstdint>
#include <cstdio>
#include <cstring>
#include <exception>
#include <mutex>
#include <optional>
#include <thread>

#include "hollow_probe/verify/survey.hpp"
#endif

namespace hollow_probe::tool {

bool is_started_by_mpirun() {
    for (const char* const name : {"OMPI_COMM_WORLD_SIZE", "PMI_SIZE", "PMIX_RANK"}) {
        if (std::getenv(name) != nullptr) return true;
    }
    return false;
}

#ifdef HOLLOW_PROBE_MPI

namespace {

/// What a rank found in one stage, and how it fared, as bytes.
class Parcel {
  public:
    enum class State : std::uint8_t { well, stopped, failed };

    void add(std::uint64_t piece, const std::string& bytes) {
        put(piece);
        put(static_cast<std::uint64_t>(bytes.size()));
        bytes_ += bytes;
    }
    std::string close(State state, const std::string& error) {
        std::string closed(1, static_cast<char>(state));
        const auto size = static_cast<std::uint32_t>(error.size());
        closed.append(reinterpret_cast<const char*>(&size), sizeof(size));  // NOLINT: bytes are what is meant
        return closed + error + bytes_;
    }

    struct Opened {
        State state = State::well;
        std::string error;
    };
    /// Gives each piece to `take(piece, bytes)`.
    template <class Take>
    static Opened open(const char* bytes, std::size_t size, Take take) {
        Opened opened;
        opened.state = static_cast<State>(bytes[0]);
        std::uint32_t length = 0;
        std::memcpy(&length, bytes + 1, sizeof(length));
        const char* at = bytes + 1 + sizeof(length);
        opened.error.assign(at, length);
        for (at += length; at < bytes + size;) {
            std::array<std::uint64_t, 2> head{};
            std::memcpy(head.data(), at, sizeof(head));
            take(head[0], std::string(at + sizeof(head), head[1]));
            at += sizeof(head) + head[1];
        }
        return opened;
    }

  private:
    void put(std::uint64_t number) {
        bytes_.append(reinterpret_cast<const char*>(&number), sizeof(number));  // NOLINT: as above
    }
    std::string bytes_;
};

/// Says what makes up for a run that mpirun ends, as it does where a rank has died. To be made before any
/// thread is started, which would get the signal otherwise.
class EndedFromOutside {
  public:
    EndedFromOutside() {
        sigemptyset(&ends_);
        sigaddset(&ends_, SIGTERM);
        pthread_sigmask(SIG_BLOCK, &ends_, &before_);
    }
    ~EndedFromOutside() {
        is_over_ = true;
        if (watch_.joinable()) pthread_kill(watch_.native_handle(), SIGTERM);
        if (watch_.joinable()) watch_.join();
        pthread_sigmask(SIG_SETMASK, &before_, nullptr);
    }
    EndedFromOutside(const EndedFromOutside&) = delete;
    EndedFromOutside& operator=(const EndedFromOutside&) = delete;

    void tell(int rank, int ranks) {
        watch_ = std::thread([this, rank, ranks] {
            int signal = 0;
            sigwait(&ends_, &signal);
            if (is_over_) return;
            if (rank == 0)
                std::fprintf(
                    stderr,
                    "hollow-probe: this run of %d ranks was ended from outside, as mpirun does where a "
                    "rank has died: nothing was written.\nThe same comes from parts, which may be made "
                    "one by one, wherever: `--part 1/%d --into FILE` to `--part %d/%d --into FILE`, "
                    "then `merge`\n",
                    ranks, ranks, ranks, ranks);
            constexpr int ended_by_signal = 128 + SIGTERM;
            std::_Exit(ended_by_signal);
        });
    }

  private:
    sigset_t ends_{};
    sigset_t before_{};
    std::atomic<bool> is_over_ = false;
    std::thread watch_;
};

}  // namespace

struct Ranks::Run {
    EndedFromOutside ended;
    int number = 0;
    int count = 1;
    MPI_Comm leaving = MPI_COMM_NULL;
    MPI_Win window = MPI_WIN_NULL;
    std::uint64_t* counters = nullptr;  // on the first rank: two sets of one a rank, used in turn
    std::uint64_t stage = 0;
    std::vector<bool> failed;  // by rank
    std::mutex mutex;          // one thread at a time calls MPI

    Run() {
        int provided = 0;
        MPI_Init_thread(nullptr, nullptr, MPI_THREAD_SERIALIZED, &provided);
        MPI_Comm_rank(MPI_COMM_WORLD, &number);
        MPI_Comm_size(MPI_COMM_WORLD, &count);
        ended.tell(number, count);
        MPI_Comm_dup(MPI_COMM_WORLD, &leaving);
        const std::size_t both_sets = 2 * static_cast<std::size_t>(count);
        const auto size = static_cast<MPI_Aint>(number == 0 ? both_sets * sizeof(std::uint64_t) : 0);
        MPI_Win_allocate(size, sizeof(std::uint64_t), MPI_INFO_NULL, MPI_COMM_WORLD, &counters, &window);
        if (number == 0) std::fill_n(counters, both_sets, 0);
        failed.resize(static_cast<std::size_t>(count));
        MPI_Win_lock_all(0, window);
        MPI_Win_sync(window);
        MPI_Barrier(MPI_COMM_WORLD);
    }
    ~Run() {
        MPI_Win_unlock_all(window);
        MPI_Win_free(&window);
        MPI_Comm_free(&leaving);
        MPI_Finalize();
    }
    Run(const Run&) = delete;
    Run& operator=(const Run&) = delete;

    /// The counter of that set and rank; then it is increased, or set to 0.
    std::uint64_t counter(std::uint64_t set, int of, bool to_zero) {
        const std::uint64_t operand = to_zero ? 0 : 1;
        std::uint64_t before = 0;
        MPI_Fetch_and_op(&operand, &before, MPI_UINT64_T, 0, static_cast<MPI_Aint>(set % 2) * count + of,
                         to_zero ? MPI_REPLACE : MPI_SUM, window);
        MPI_Win_flush(0, window);
        return before;
    }

    /// Pieces are given out one at a time: first those that are at home with a rank, then those the others
    /// have not come to.
    class Claims {
      public:
        Claims(Run& run, const std::vector<std::size_t>& homes) : run_(run), of_home_(run.failed.size()) {
            for (std::size_t piece = 0; piece < homes.size(); ++piece)
                of_home_[homes[piece] % of_home_.size()].push_back(piece);
        }

        /// None: all are taken.
        std::optional<std::size_t> next() {
            const std::lock_guard lock(run_.mutex);
            while (away_ < run_.count) {
                const int home = (run_.number + away_) % run_.count;
                const std::vector<std::size_t>& pieces = of_home_[static_cast<std::size_t>(home)];
                const std::uint64_t taken = run_.counter(run_.stage, home, false);
                if (taken < pieces.size()) return pieces[taken];
                ++away_;
            }
            return std::nullopt;
        }

      private:
        Run& run_;
        std::vector<std::vector<std::size_t>> of_home_;  // by rank
        int away_ = 0;
    };

    std::vector<std::string> make_all(const std::vector<std::size_t>& homes,
                                      const std::function<std::string(std::size_t)>& make) {
        const std::size_t pieces = homes.size();
        std::vector<std::string> all(pieces);
        std::vector<bool> known(pieces);
        std::exception_ptr own_error;
        Claims claims(*this, homes);
        exchange([&](Parcel& parcel) { return work([&] { return claims.next(); }, make, parcel, own_error); },
                 all, known);
        // What ranks that failed have left undone is shared by the others.
        while (true) {
            std::vector<std::size_t> missing;
            for (std::size_t i = 0; i < pieces; ++i) {
                if (!known[i]) missing.push_back(i);
            }
            if (missing.empty()) return all;
            std::vector<int> well;
            for (int rank = 0; rank < count; ++rank) {
                if (!failed[static_cast<std::size_t>(rank)]) well.push_back(rank);
            }
            if (well.empty()) {
                if (own_error) std::rethrow_exception(own_error);
                throw std::runtime_error("every rank has failed");
            }
            const auto me = std::find(well.begin(), well.end(), number) - well.begin();
            auto next = static_cast<std::size_t>(me);
            std::mutex own;
            exchange(
                [&](Parcel& parcel) {
                    const auto claim = [&]() -> std::optional<std::size_t> {
                        const std::lock_guard lock(own);
                        if (next >= missing.size()) return std::nullopt;
                        const std::size_t piece = missing[next];
                        next += well.size();
                        return piece;
                    };
                    return work(claim, make, parcel, own_error);
                },
                all, known);
        }
    }

    /// Makes pieces on all threads until no more are to be had.
    template <class Claim>
    std::pair<Parcel::State, std::string> work(Claim claim,
                                               const std::function<std::string(std::size_t)>& make,
                                               Parcel& parcel, std::exception_ptr& error) {
        Parcel::State state = Parcel::State::well;
        std::string why;
        if (failed[static_cast<std::size_t>(number)]) return {Parcel::State::failed, "before"};
        std::mutex own;
        const auto loop = [&] {
            while (true) {
                {
                    const std::lock_guard lock(own);
                    if (state != Parcel::State::well) return;
                }
                const std::optional<std::size_t> piece = claim();
                if (!piece) return;
                try {
                    const std::string bytes = make(*piece);
                    const std::lock_guard lock(own);
                    parcel.add(*piece, bytes);
                } catch (const SurveyStopped&) {
                    const std::lock_guard lock(own);
                    state = Parcel::State::stopped;
                } catch (const std::exception& thrown) {
                    const std::lock_guard lock(own);
                    if (state == Parcel::State::well) state = Parcel::State::failed;
                    error = std::current_exception();
                    why = thrown.what();
                }
            }
        };
        tbb::parallel_for(
            0, tbb::this_task_arena::max_concurrency(), [&](int) { loop(); }, tbb::simple_partitioner());
        return {state, why};
    }

    /// Every rank gets what all have made. Throws SurveyStopped where one was stopped.
    template <class Work>
    void exchange(Work work, std::vector<std::string>& all, std::vector<bool>& known) {
        Parcel parcel;
        const auto [state, why] = work(parcel);
        const std::string mine = parcel.close(state, why);
        if (number == 0) {
            for (int rank = 0; rank < count; ++rank) (void)counter(stage + 1, rank, true);
        }
        ++stage;
        std::vector<std::uint64_t> sizes(static_cast<std::size_t>(count));
        const std::uint64_t size = mine.size();
        MPI_Allgather(&size, 1, MPI_UINT64_T, sizes.data(), 1, MPI_UINT64_T, MPI_COMM_WORLD);
        bool stopped = false;
        const auto open = [&](int rank, const char* bytes, std::uint64_t length) {
            const auto opened = Parcel::open(bytes, length, [&](std::uint64_t piece, std::string made) {
                all[piece] = std::move(made);
                known[piece] = true;
            });
            stopped = stopped || opened.state == Parcel::State::stopped;
            std::vector<bool>::reference has_failed = failed[static_cast<std::size_t>(rank)];
            if (opened.state != Parcel::State::failed || has_failed) return;
            has_failed = true;
            if (number == 0)
                std::fprintf(stderr, "hollow-probe: rank %d failed: %s: the others do its work\n", rank,
                             opened.error.c_str());
        };
        constexpr std::uint64_t most_at_once = std::uint64_t{1} << 30U;
        std::uint64_t whole = 0;
        for (const std::uint64_t one : sizes) whole += one;
        if (whole < most_at_once) {
            std::string bytes(whole, '\0');
            std::vector<int> counts(sizes.begin(), sizes.end());
            std::vector<int> starts(sizes.size(), 0);
            for (std::size_t rank = 1; rank < sizes.size(); ++rank)
                starts[rank] = starts[rank - 1] + counts[rank - 1];
            MPI_Allgatherv(mine.data(), static_cast<int>(mine.size()), MPI_CHAR, bytes.data(), counts.data(),
                           starts.data(), MPI_CHAR, MPI_COMM_WORLD);
            for (int rank = 0; rank < count; ++rank)
                open(rank, bytes.data() + starts[static_cast<std::size_t>(rank)],
                     sizes[static_cast<std::size_t>(rank)]);
        } else {
            for (int rank = 0; rank < count; ++rank) {
                std::string bytes =
                    rank == number ? mine : std::string(sizes[static_cast<std::size_t>(rank)], '\0');
                for (std::uint64_t at = 0; at < bytes.size(); at += most_at_once)
                    MPI_Bcast(bytes.data() + at, static_cast<int>(std::min(most_at_once, bytes.size() - at)),
                              MPI_CHAR, rank, MPI_COMM_WORLD);
                open(rank, bytes.data(), bytes.size());
            }
        }
        if (stopped) throw SurveyStopped();
    }

    void leave(const std::string& error) {
        MPI_Request all_here = MPI_REQUEST_NULL;
        MPI_Ibarrier(leaving, &all_here);
        if (error.empty()) {
            MPI_Wait(&all_here, MPI_STATUS_IGNORE);  // NOLINT(*-mpi*): of the barrier above
            return;
        }
        // What is wrong for all is told by the first.
        constexpr int most_waits = 1000;
        for (int i = 0; i < most_waits; ++i) {
            int is_over = 0;
            MPI_Test(&all_here, &is_over, MPI_STATUS_IGNORE);
            if (is_over != 0) return;
            std::this_thread::sleep_for(std::chrono::milliseconds(10));
        }
        std::fprintf(stderr, "hollow-probe: rank %d of %d failed, and the run with it: %s\n", number, count,
                     error.c_str());
        MPI_Abort(MPI_COMM_WORLD, 3);
    }
};

Ranks Ranks::join() {
    return Ranks(is_started_by_mpirun() ? std::make_unique<Run>() : nullptr);
}

int Ranks::count() const {
    return run_ ? run_->count : 1;
}

bool Ranks::is_first() const {
    return !run_ || run_->number == 0;
}

WorkSharing Ranks::sharing() const {
    if (count() == 1) return nullptr;
    return [run = run_.get()](const std::vector<std::size_t>& homes,
                              const std::function<std::string(std::size_t)>& make) {
        return run->make_all(homes, make);
    };
}

void Ranks::leave(const std::string& error) {
    if (run_) run_->leave(error);
}

#else

struct Ranks::Run {};

Ranks Ranks::join() {
    return Ranks(nullptr);
}

int Ranks::count() const {
    return 1;
}

bool Ranks::is_first() const {
    return true;
}

WorkSharing Ranks::sharing() const {
    return nullptr;
}

void Ranks::leave(const std::string&) {}

#endif

Ranks Ranks::alone() {
    return Ranks(nullptr);
}

Ranks::Ranks(std::unique_ptr<Run> run) : run_(std::move(run)) {}
Ranks::Ranks(Ranks&&) noexcept = default;
Ranks::~Ranks() = default;

}  // namespace hollow_probe::tool

// Several processes of one run, started by mpirun.
#pragma once

#include <memory>
#include <string>

#include "hollow_probe/geometry/shared_work.hpp"

namespace hollow_probe::tool {

/// Whether this process was started by an mpirun that it knows: its terminal is not the user's then.
bool is_started_by_mpirun();

/// What this process is of the run it belongs to. One process alone where there is no mpirun, or the tool was
/// built without MPI. One of these lives from before the first thread to the end of the process.
class Ranks {
  public:
    /// The numbers of a process and of all are taken from mpirun.
    static Ranks join();
    static Ranks alone();

    Ranks(Ranks&&) noexcept;
    Ranks& operator=(Ranks&&) = delete;
    ~Ranks();

    [[nodiscard]] int count() const;
    /// The one that writes and prints.
    [[nodiscard]] bool is_first() const;
    /// Work shared by all; none where there is but one. Must not outlive this. A rank of which a piece of
    /// work throws is told on standard error, and the others do what it left; where all fail it is thrown.
    [[nodiscard]] WorkSharing sharing() const;

    /// Waits for the others. A rank that comes here with an error that others do not have would leave them
    /// waiting: it tells what it is, and ends them all.
    void leave(const std::string& error);

  private:
    struct Run;
    explicit Ranks(std::unique_ptr<Run> run);
    std::unique_ptr<Run> run_;
};

}  // namespace hollow_probe::tool

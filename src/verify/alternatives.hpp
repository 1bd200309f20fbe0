// Changes that many wrong verdicts are asked about, each made once a facing.
#pragma once

#include <memory>
#include <mutex>
#include <string>
#include <unordered_map>

#include "verify/alternative.hpp"

namespace hollow_probe {

template <int D>
class Alternatives {
  public:
    explicit Alternatives(const Planned<D>& planned) : planned_(planned) {}

    [[nodiscard]] const Planned<D>& planned() const { return planned_; }

    /// The rig of a facing with a change made; null where there is no room to keep it. May be called on
    /// several threads at once.
    const Alternative<D>* of(std::size_t facing, const ProvenCause<D>& cause);

  private:
    const Planned<D>& planned_;
    std::mutex mutex_;
    std::size_t probes_ = 0;                                                       // of all that were made
    std::unordered_map<std::string, std::unique_ptr<const Alternative<D>>> made_;  // by facing and change
};

extern template class Alternatives<2>;
extern template class Alternatives<3>;

}  // namespace hollow_probe

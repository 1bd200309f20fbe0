#include "verify/alternatives.hpp"

#include "verify/cause_bytes.hpp"

namespace hollow_probe {

template <int D>
const Alternative<D>* Alternatives<D>::of(std::size_t facing, const ProvenCause<D>& cause) {
    constexpr std::size_t most_kept = 20'000;  // some thirty megabytes
    if (!cause.with.empty()) return nullptr;
    std::string key = bytes_of(std::pair(facing, cause.change));
    const std::lock_guard lock(mutex_);
    if (const auto found = made_.find(key); found != made_.end()) return found->second.get();
    if (probes_ >= most_kept) return nullptr;
    auto made = std::make_unique<const Alternative<D>>(planned_, facing, cause);
    probes_ += made->probe_count();
    return made_.emplace(std::move(key), std::move(made)).first->second.get();
}

template class Alternatives<2>;
template class Alternatives<3>;

}  // namespace hollow_probe

#include "verify/alternatives.hpp"

#include "verify/cause_bytes.hpp"

namespace hollow_probe {

template <int D>
const Alternative<D>* Alternatives<D>::of(std::size_t facing, const ProvenCause<D>& cause) {
    if (!Alternative<D>::changes_probes_alone(planned_, cause)) return nullptr;
    std::string key = bytes_of(std::pair(facing, cause.change));
    const std::lock_guard lock(mutex_);
    auto& made = made_[std::move(key)];
    if (!made) made = std::make_unique<const Alternative<D>>(planned_, facing, cause);
    return made.get();
}

template class Alternatives<2>;
template class Alternatives<3>;

}  // namespace hollow_probe

#include "hollow_probe/verify/kept_truths.hpp"

#include "verify/truth_store.hpp"

namespace hollow_probe {

template <int D>
KeptTruths<D>::KeptTruths(std::size_t most_bytes) : store_(std::make_unique<Store>()) {
    store_->most_bytes = most_bytes;
}
template <int D>
KeptTruths<D>::~KeptTruths() = default;
template <int D>
KeptTruths<D>::KeptTruths(KeptTruths&&) noexcept = default;
template <int D>
KeptTruths<D>& KeptTruths<D>::operator=(KeptTruths&&) noexcept = default;

template <int D>
std::size_t KeptTruths<D>::columns() const {
    return store_->columns.size();
}
template <int D>
std::size_t KeptTruths<D>::bytes() const {
    return store_->bytes.load();
}

template class KeptTruths<2>;
template class KeptTruths<3>;

}  // namespace hollow_probe

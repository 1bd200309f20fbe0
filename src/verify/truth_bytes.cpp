// Kept truths as bytes, to be put on a disk and taken back.
#include "geometry/mixed_hash.hpp"
#include "hollow_probe/verify/kept_truths.hpp"
#include "verify/column_bytes.hpp"

namespace hollow_probe {
namespace {

constexpr std::string_view magic = "hollow-probe truths 3\n";
/// What a place or a doubt takes of the room there is, about.
constexpr std::size_t bytes_of_entry = 16 * sizeof(double);

std::uint64_t checked_by(std::string_view bytes) {
    MixedHash hash;
    hash.add(bytes);
    return hash.first();
}

}  // namespace

template <int D>
std::string KeptTruths<D>::to_bytes() const {
    ByteWriter out;
    out.bytes = magic;
    std::uint32_t dimensions = D;
    out(dimensions);
    std::vector<std::vector<double>> terms(store_->numbers.size());
    for (const auto& [numbers, number] : store_->numbers) terms[number] = numbers;
    members(out, terms);
    const auto put_all = [&](const auto& map, auto put_value) {
        out.count(map.size(), 0);
        map.for_each([&](auto key, auto value) {
            members(out, key);
            put_value(value);
        });
    };
    put_all(store_->columns, [&](const std::shared_ptr<const TruthColumn>& column) {
        TruthColumn copy = *column;
        members(out, copy);
    });
    put_all(store_->places, [&](TruthState& state) { members(out, state); });
    put_all(store_->doubts, [&](bool& doubt) { out(doubt); });
    std::uint64_t check = checked_by(out.bytes);
    out(check);
    return std::move(out.bytes);
}

template <int D>
KeptTruths<D> KeptTruths<D>::from_bytes(std::string_view bytes, std::size_t most_bytes) {
    KeptTruths kept(most_bytes);
    if (bytes.size() < magic.size() + sizeof(std::uint64_t) || bytes.substr(0, magic.size()) != magic)
        throw InvalidInput("these are no kept truths, or of another version");
    const std::string_view content = bytes.substr(0, bytes.size() - sizeof(std::uint64_t));
    if (hollow_probe::from_bytes<std::uint64_t>(bytes.substr(content.size())) != checked_by(content))
        throw InvalidInput("kept truths are damaged");
    ByteReader in(content.substr(magic.size()));
    std::uint32_t dimensions = 0;
    in(dimensions);
    if (dimensions != D) throw InvalidInput("kept truths are of another number of dimensions");
    Store& store = *kept.store_;
    std::vector<std::vector<double>> terms;
    members(in, terms);
    for (std::size_t i = 0; i < terms.size(); ++i) store.numbers.emplace(std::move(terms[i]), i);
    const auto get_all = [&]<class Key, class Value>(auto& map, Key key, Value value, auto bytes_of_value) {
        const std::size_t count = in.count(0, D * sizeof(double));
        for (std::size_t i = 0; i < count; ++i) {
            members(in, key);
            members(in, value);
            if (store.take(bytes_of_value(value))) {
                if constexpr (std::is_same_v<Value, TruthColumn>) {
                    map.add(key, std::make_shared<const TruthColumn>(value));
                } else {
                    map.add(key, value);
                }
            }
        }
    };
    get_all(store.columns, NumbersKey<D>{}, TruthColumn{},
            [](const TruthColumn& column) { return column.bytes(); });
    get_all(store.places, NumbersKey<D + 1>{}, TruthState{},
            [](const TruthState&) { return bytes_of_entry; });
    get_all(store.doubts, NumbersKey<D + 2>{}, false, [](bool) { return bytes_of_entry; });
    if (!in.is_done()) throw InvalidInput("kept truths go on where they should end");
    return kept;
}

template std::string KeptTruths<2>::to_bytes() const;
template std::string KeptTruths<3>::to_bytes() const;
template KeptTruths<2> KeptTruths<2>::from_bytes(std::string_view, std::size_t);
template KeptTruths<3> KeptTruths<3>::from_bytes(std::string_view, std::size_t);

}  // namespace hollow_probe

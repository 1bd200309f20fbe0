// Kept truths as bytes, to be put on a disk and taken back.
#include <map>

#include "geometry/mixed_hash.hpp"
#include "hollow_probe/verify/kept_truths.hpp"
#include "verify/column_bytes.hpp"

namespace hollow_probe {
namespace {

constexpr std::string_view magic = "hollow-probe truths 4\n";

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
    // Columns once each, in the order of their numbers here.
    std::map<PackedColumns::Number, PackedColumns::Number> renumbered;
    store_->columns.for_each([&](const Hash128&, PackedColumns::Number number) {
        renumbered.emplace(number, static_cast<PackedColumns::Number>(renumbered.size()));
    });
    std::vector<std::string> columns(renumbered.size());
    for (const auto& [number, here] : renumbered) columns[here] = store_->packed_columns.at(number);
    members(out, columns);
    const auto put_all = [&](const auto& table, auto number_here) {
        out.count(table.size(), 0);
        table.for_each([&](Hash128 key, auto value) {
            members(out, key);
            auto number = number_here(value);
            out(number);
        });
    };
    put_all(store_->columns, [&](PackedColumns::Number number) { return renumbered.at(number); });
    put_all(store_->doubts, [](std::uint8_t doubt) { return doubt; });
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
    std::vector<std::string> columns;
    members(in, columns);
    for (const std::string& column : columns) (void)unpacked(column);  // throws where it is none
    const auto get_all = [&]<class Number>(Number number, std::size_t numbers, auto add) {
        Hash128 key{};
        const std::size_t count = in.count(0, sizeof(key) + sizeof(number));
        for (std::size_t i = 0; i < count; ++i) {
            members(in, key);
            in(number);
            if (number >= numbers) throw InvalidInput("kept truths name one that is not there");
            add(key, number);
        }
    };
    get_all(PackedColumns::Number{}, columns.size(), [&](const Hash128& key, PackedColumns::Number number) {
        store.add_column(key, columns[number]);
    });
    get_all(std::uint8_t{}, 2,
            [&](const Hash128& key, std::uint8_t doubt) { store.add_doubt(key, doubt != 0); });
    if (!in.is_done()) throw InvalidInput("kept truths go on where they should end");
    return kept;
}

template std::string KeptTruths<2>::to_bytes() const;
template std::string KeptTruths<3>::to_bytes() const;
template KeptTruths<2> KeptTruths<2>::from_bytes(std::string_view, std::size_t);
template KeptTruths<3> KeptTruths<3>::from_bytes(std::string_view, std::size_t);

}  // namespace hollow_probe

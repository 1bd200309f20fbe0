// Kept truths as bytes, to be put on a disk and taken back.
#include <algorithm>
#include <bit>

#include "geometry/mixed_hash.hpp"
#include "hollow_probe/verify/kept_truths.hpp"
#include "verify/truth_store.hpp"

namespace hollow_probe {
namespace {

constexpr std::string_view magic = "hollow-probe truths 1\n";

class Writer {
  public:
    template <class Number>
    void put(const Number& number) requires(std::is_arithmetic_v<Number>) {
        bytes.append(reinterpret_cast<const char*>(&number),
                     sizeof(number));  // NOLINT: bytes are what is meant
    }
    void put(const std::vector<double>& numbers) {
        put(static_cast<std::uint64_t>(numbers.size()));
        for (const double number : numbers) put(number);
    }
    void put(const TruthState& state) {
        put(state.on.bits());
        put(static_cast<std::uint8_t>(state.clips ? 1 : 0));
    }
    void put(const HeightSpan& span) {
        put(span.low);
        put(span.high);
    }
    void put(const std::vector<HeightSpan>& spans) {
        put(static_cast<std::uint64_t>(spans.size()));
        for (const HeightSpan& span : spans) put(span);
    }

    std::string bytes;
};

class Reader {
  public:
    explicit Reader(std::string_view bytes) : left_(bytes) {}

    template <class Number>
    Number get() {
        Number number{};
        if (left_.size() < sizeof(number)) throw InvalidInput("kept truths end too soon");
        std::memcpy(&number, left_.data(), sizeof(number));
        left_.remove_prefix(sizeof(number));
        return number;
    }
    /// How many of something follow, of so many bytes each at least.
    std::size_t count(std::size_t bytes_each) {
        const auto number = get<std::uint64_t>();
        if (number > left_.size() / bytes_each) throw InvalidInput("kept truths end too soon");
        return static_cast<std::size_t>(number);
    }
    std::vector<double> numbers() {
        std::vector<double> all(count(sizeof(double)));
        for (double& number : all) number = get<double>();
        return all;
    }
    TruthState state() {
        TruthState state;
        for (auto bits = get<std::uint64_t>(); bits != 0; bits &= bits - 1)
            state.on.put(static_cast<std::size_t>(std::countr_zero(bits)));
        state.clips = get<std::uint8_t>() != 0;
        return state;
    }
    HeightSpan span() {
        HeightSpan span;
        span.low = get<double>();
        span.high = get<double>();
        return span;
    }
    std::vector<HeightSpan> spans() {
        std::vector<HeightSpan> all(count(sizeof(HeightSpan)));
        for (HeightSpan& one : all) one = span();
        return all;
    }
    [[nodiscard]] bool is_done() const { return left_.empty(); }

  private:
    std::string_view left_;
};

void put(const TruthColumn& column, Writer& out) {
    out.put(column.taken);
    out.put(column.busy);
    out.put(column.rests);
    out.put(column.candidates);
    out.put(static_cast<std::uint64_t>(column.stretches.size()));
    for (const Stretch<TruthState>& stretch : column.stretches) {
        out.put(stretch.span);
        out.put(stretch.state);
        out.put(stretch.seen_at);
    }
    out.put(column.idle);
    out.put(static_cast<std::uint64_t>(column.asked));
}

TruthColumn column_from(Reader& in) {
    TruthColumn column;
    column.taken = in.spans();
    column.busy = in.spans();
    column.rests = in.numbers();
    column.candidates = in.numbers();
    column.stretches.resize(in.count(3 * sizeof(double)));
    for (Stretch<TruthState>& stretch : column.stretches) {
        stretch.span = in.span();
        stretch.state = in.state();
        stretch.seen_at = in.get<double>();
    }
    column.idle = in.state();
    column.asked = static_cast<std::size_t>(in.get<std::uint64_t>());
    return column;
}

template <std::size_t Count>
void put(const NumbersKey<Count>& key, Writer& out) {
    for (const double number : key.numbers) out.put(number);
}

template <std::size_t Count>
NumbersKey<Count> key_from(Reader& in) {
    NumbersKey<Count> key{};
    for (double& number : key.numbers) number = in.get<double>();
    return key;
}

std::uint64_t checked_by(std::string_view bytes) {
    MixedHash hash;
    hash.add(bytes);
    return hash.first();
}

}  // namespace

template <int D>
std::string KeptTruths<D>::to_bytes() const {
    Writer out;
    out.bytes = magic;
    out.put(static_cast<std::uint32_t>(D));
    std::vector<const std::vector<double>*> terms(store_->numbers.size());
    for (const auto& [numbers, number] : store_->numbers) terms[number] = &numbers;
    out.put(static_cast<std::uint64_t>(terms.size()));
    for (const std::vector<double>* numbers : terms) out.put(*numbers);
    const auto put_all = [&](const auto& map, auto put_value) {
        out.put(static_cast<std::uint64_t>(map.size()));
        map.for_each([&](const auto& key, const auto& value) {
            put(key, out);
            put_value(value);
        });
    };
    put_all(store_->columns, [&](const std::shared_ptr<const TruthColumn>& column) { put(*column, out); });
    put_all(store_->places, [&](const TruthState& state) { out.put(state); });
    put_all(store_->doubts, [&](bool doubt) { out.put(static_cast<std::uint8_t>(doubt ? 1 : 0)); });
    out.put(checked_by(out.bytes));
    return std::move(out.bytes);
}

template <int D>
KeptTruths<D> KeptTruths<D>::from_bytes(std::string_view bytes, std::size_t most_bytes) {
    KeptTruths kept(most_bytes);
    if (bytes.size() < magic.size() + sizeof(std::uint64_t) || bytes.substr(0, magic.size()) != magic)
        throw InvalidInput("these are no kept truths, or of another version");
    const std::string_view content = bytes.substr(0, bytes.size() - sizeof(std::uint64_t));
    if (Reader(bytes.substr(content.size())).get<std::uint64_t>() != checked_by(content))
        throw InvalidInput("kept truths are damaged");
    Reader in(content.substr(magic.size()));
    if (in.get<std::uint32_t>() != D) throw InvalidInput("kept truths are of another number of dimensions");
    Store& store = *kept.store_;
    const std::size_t terms = in.count(sizeof(std::uint64_t));
    for (std::size_t i = 0; i < terms; ++i) store.numbers.emplace(in.numbers(), i);
    const auto get_all = [&](auto& map, auto key, auto value, auto bytes_of) {
        const std::size_t count = in.count(D * sizeof(double));
        for (std::size_t i = 0; i < count; ++i) {
            const auto at = key();
            auto what = value();
            if (store.take(bytes_of(what))) map.put(at, std::move(what));
        }
    };
    get_all(
        store.columns, [&] { return key_from<D>(in); },
        [&] { return std::make_shared<const TruthColumn>(column_from(in)); },
        [](const std::shared_ptr<const TruthColumn>& column) { return column->bytes(); });
    get_all(
        store.places, [&] { return key_from<D + 1>(in); }, [&] { return in.state(); },
        [](const TruthState&) { return 16 * sizeof(double); });
    get_all(
        store.doubts, [&] { return key_from<D + 2>(in); }, [&] { return in.get<std::uint8_t>() != 0; },
        [](bool) { return 16 * sizeof(double); });
    if (!in.is_done()) throw InvalidInput("kept truths go on where they should end");
    return kept;
}

template std::string KeptTruths<2>::to_bytes() const;
template std::string KeptTruths<3>::to_bytes() const;
template KeptTruths<2> KeptTruths<2>::from_bytes(std::string_view, std::size_t);
template KeptTruths<3> KeptTruths<3>::from_bytes(std::string_view, std::size_t);

}  // namespace hollow_probe

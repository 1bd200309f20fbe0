#include "verify/packed_columns.hpp"

#include <algorithm>
#include <bit>

#include "verify/column_bytes.hpp"

namespace hollow_probe {
namespace {

/// Seven bits a byte, the lowest first; the eighth tells that more follow.
void put_whole(std::string& bytes, std::uint64_t number) {
    for (; number >= 0x80U; number >>= 7U) bytes += static_cast<char>(0x80U | (number & 0x7fU));
    bytes += static_cast<char>(number);
}

std::uint64_t take_whole(std::string_view& bytes) {
    std::uint64_t number = 0;
    for (unsigned shift = 0; shift < 64U && !bytes.empty(); shift += 7U) {
        const auto byte = static_cast<unsigned char>(bytes.front());
        bytes.remove_prefix(1);
        number |= std::uint64_t{byte & 0x7fU} << shift;
        if (byte < 0x80U) return number;
    }
    throw InvalidInput("a packed column ends too soon");
}

/// See geometry/bytes.hpp.
class PackWriter {
  public:
    static constexpr bool reads = false;

    void operator()(double& number) { heights_.push_back(std::bit_cast<std::uint64_t>(number)); }
    template <std::integral Whole>
    void operator()(Whole& number) {
        put_whole(wholes_, static_cast<std::uint64_t>(number));
    }
    std::size_t count(std::size_t count, std::size_t) {
        put_whole(wholes_, count);
        return count;
    }
    /// The heights that there are, which of them is where, and all other numbers.
    [[nodiscard]] std::string bytes() const {
        std::vector<std::uint64_t> each = heights_;
        std::sort(each.begin(), each.end());
        each.erase(std::unique(each.begin(), each.end()), each.end());
        std::string result;
        put_whole(result, each.size());
        for (const std::uint64_t bits : each) {
            const auto raw = std::bit_cast<std::array<char, sizeof(bits)>>(bits);
            result.append(raw.data(), raw.size());
        }
        std::string which;
        for (const std::uint64_t bits : heights_) {
            const auto at = std::lower_bound(each.begin(), each.end(), bits);
            put_whole(which, static_cast<std::uint64_t>(at - each.begin()));
        }
        put_whole(result, which.size());
        return result + which + wholes_;
    }

  private:
    std::vector<std::uint64_t> heights_;
    std::string wholes_;
};

class PackReader {
  public:
    static constexpr bool reads = true;

    explicit PackReader(std::string_view bytes) {
        each_ = take(bytes, take_whole(bytes), sizeof(std::uint64_t));
        which_ = take(bytes, take_whole(bytes), 1);
        wholes_ = bytes;
    }
    void operator()(double& number) {
        const std::uint64_t at = take_whole(which_);
        if (at >= each_.size() / sizeof(number)) throw InvalidInput("a packed column names no such height");
        std::memcpy(&number, each_.data() + sizeof(number) * at, sizeof(number));
    }
    template <std::integral Whole>
    void operator()(Whole& number) {
        number = static_cast<Whole>(take_whole(wholes_));
    }
    std::size_t count(std::size_t, std::size_t) {
        const std::uint64_t count = take_whole(wholes_);
        // Each of what is counted holds a height at least.
        if (count > which_.size()) throw InvalidInput("a packed column ends too soon");
        return count;
    }
    [[nodiscard]] bool is_done() const { return which_.empty() && wholes_.empty(); }

  private:
    static std::string_view take(std::string_view& bytes, std::uint64_t count, std::size_t bytes_each) {
        if (count > bytes.size() / bytes_each) throw InvalidInput("a packed column ends too soon");
        const std::string_view taken = bytes.substr(0, count * bytes_each);
        bytes.remove_prefix(taken.size());
        return taken;
    }

    std::string_view each_;
    std::string_view which_;
    std::string_view wholes_;
};

Hash128 hash_of_content(std::string_view packed) {
    MixedHash hash;
    hash.add(packed);
    return {hash.first(), hash.second()};
}

}  // namespace

std::string packed(const TruthColumn& column) {
    PackWriter writer;
    TruthColumn copy = column;
    members(writer, copy);
    return writer.bytes();
}

TruthColumn unpacked(std::string_view bytes) {
    PackReader reader(bytes);
    TruthColumn column;
    members(reader, column);
    if (!reader.is_done()) throw InvalidInput("a packed column goes on where it should end");
    return column;
}

std::optional<PackedColumns::Number> PackedColumns::add(std::string_view packed,
                                                        const std::function<bool(std::size_t)>& may_take) {
    constexpr std::size_t most_bytes = std::size_t{1} << (32U - part_bits);
    const Hash128 content = hash_of_content(packed);
    const std::size_t number = content[1] % parts_.size();
    Part& part = parts_[number];
    const std::lock_guard lock(part.mutex);
    const auto start = static_cast<std::uint32_t>(part.bytes.size());
    if (const std::uint32_t* const found = part.starts.find(content))
        return static_cast<Number>(*found << part_bits | number);
    if (part.bytes.size() >= most_bytes) return std::nullopt;
    std::string more;
    put_whole(more, packed.size());
    more += packed;
    if (!may_take(more.size() + more.size() / 8 + HashTable<std::uint32_t>::bytes_each)) return std::nullopt;
    const std::size_t needed = part.bytes.size() + more.size();
    if (needed > part.bytes.capacity()) part.bytes.reserve(needed + needed / 4);
    part.bytes += more;
    part.starts.add(content, start);
    return static_cast<Number>(start << part_bits | number);
}

std::string PackedColumns::at(Number number) {
    Part& part = parts_[number % parts_.size()];
    const std::lock_guard lock(part.mutex);
    std::string_view from = std::string_view(part.bytes).substr(number >> part_bits);
    const std::uint64_t size = take_whole(from);
    return std::string(from.substr(0, size));
}

}  // namespace hollow_probe

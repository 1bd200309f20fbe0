// Reading fields from a table of a rig file, by the table of fields.
#pragma once

#include <algorithm>
#include <array>

#include "hollow_probe/rig/fields.hpp"
#include "io/toml_reader.hpp"

namespace hollow_probe {

/// The names that fields may hold.
struct KnownNames {
    std::vector<std::string> layers;
    std::vector<std::string> stances;
    std::vector<std::string> probes;
    std::vector<std::string> signals;

    [[nodiscard]] const std::vector<std::string>& of(NamesOf names) const;
};

/// Refuses names that are not known, at their place.
void require_known(const TableReader& table, std::string_view key, const std::vector<std::string>& given,
                   const std::vector<std::string>& known, const std::string& what);

/// The words of some kinds, by their bits: "headroom or ledge".
std::string kinds_text(std::uint32_t kinds, std::span<const std::string_view> words);

/// What stands under a field's own key in its table. Throws InputError for what is of another type, outside
/// of the limits, or not known.
FieldValue read_value(const TableReader& table, std::string_view key, FieldType type, const Limits& limits,
                      bool ordered, std::span<const std::string_view> words, NamesOf names,
                      const KnownNames& known, int dimensions);

/// Reads the fields of one owner.
template <class Owner>
class FieldReader {
  public:
    FieldReader(const TableReader& table, std::span<const Field<Owner>> fields, std::size_t kind,
                const KnownNames& known, int dimensions, Owner& owner)
        : table_(table),
          fields_(fields),
          kind_(kind),
          known_(known),
          dimensions_(dimensions),
          owner_(owner) {}

    /// Refuses keys that a kind makes nothing of, with message(key, bits of the kinds that it is for).
    template <class Message>
    void refuse_foreign(Message message) const {
        for (const Field<Owner>& field : fields_) {
            const std::string_view root = field.key.substr(0, field.key.find('.'));
            if (!table_.has(root)) continue;
            const bool is_used = std::any_of(fields_.begin(), fields_.end(), [&](const Field<Owner>& other) {
                return other.is_for(kind_) && other.key.substr(0, other.key.find('.')) == root;
            });
            if (!is_used) table_.fail(root, message(root, field.kinds));
        }
    }

    /// All fields but those below `others`, keys that are read in a way of their own.
    void read_all_but(std::initializer_list<std::string_view> others) const {
        for (const Field<Owner>& field : fields_) {
            const std::string_view root = field.key.substr(0, field.key.find('.'));
            if (std::find(others.begin(), others.end(), root) == others.end()) read(field);
        }
    }

    /// All fields below a table of the owner's: "spread.row" reads spread.row.count and its like.
    void read_below(std::string_view path) const {
        for (const Field<Owner>& field : fields_) {
            if (field.key.starts_with(path) && field.key.size() > path.size() &&
                field.key[path.size()] == '.')
                read(field);
        }
    }

    void read(std::string_view key) const {
        for (const Field<Owner>& field : fields_) {
            if (field.key == key && field.is_for(kind_)) read(field);
        }
    }

  private:
    [[nodiscard]] bool may_be_number(std::string_view key) const {
        return std::any_of(fields_.begin(), fields_.end(), [&](const Field<Owner>& field) {
            return field.key == key && field.type == FieldType::number_or_table;
        });
    }

    /// A field within a table that is not there is not given; one that is required must be there.
    void read(const Field<Owner>& field) const {
        if (!field.is_for(kind_) || field.set == nullptr) return;
        TableReader table = table_;
        std::string_view key = field.key;
        for (std::size_t dot = key.find('.'); dot != std::string_view::npos; dot = key.find('.')) {
            if (!table.has(key.substr(0, dot))) return;
            if (!table.is_table(key.substr(0, dot)) && may_be_number(key.substr(0, dot))) return;
            table = table.table(key.substr(0, dot));
            key = key.substr(dot + 1);
        }
        if (!table.has(key) && !field.is_required()) return;
        if (field.type == FieldType::number_or_table && table.is_table(key)) return;
        const FieldValue value = read_value(table, key, field.type, field.limits, field.ordered, field.words,
                                            field.names, known_, dimensions_);
        table.placed(key, [&] {
            field.set(owner_, value);
            return 0;
        });
    }

    const TableReader& table_;
    std::span<const Field<Owner>> fields_;
    std::size_t kind_;
    const KnownNames& known_;
    int dimensions_;
    Owner& owner_;
};

}  // namespace hollow_probe

#include "io/taken_over.hpp"

namespace hollow_probe {
namespace {

bool is_dots(const toml::node& node) {
    return node.value<std::string_view>() == "...";
}

/// The block of a list that has a name.
const toml::table* block_named(const toml::array* list, std::string_view name) {
    for (std::size_t i = 0; list != nullptr && i < list->size(); ++i) {
        const toml::table* const block = list->get(i)->as_table();
        if (block != nullptr && (*block)["name"].value<std::string_view>() == name) return block;
    }
    return nullptr;
}

}  // namespace

void fill_in(toml::table& own, const toml::table& other) {
    for (const auto& [key, node] : other) {
        toml::node* const here = own.get(key.str());
        if (here == nullptr) {
            node.visit([&own, &key = key](const auto& value) { own.insert(key, value); });
            continue;
        }
        if (here->is_table() && node.is_table()) fill_in(*here->as_table(), *node.as_table());
        const toml::array* const blocks = node.as_array();
        if (blocks == nullptr || !here->is_array() || !blocks->is_array_of_tables()) continue;
        for (const toml::node& block : *blocks) {
            const auto name = (*block.as_table())["name"].value<std::string_view>();
            if (name && block_named(here->as_array(), *name) == nullptr)
                here->as_array()->push_back(*block.as_table());
        }
    }
}

void take_over_lists(toml::table& own, const toml::table& other,
                     const std::function<void(const toml::node&, const std::string&)>& fail) {
    static const toml::table nothing;
    for (auto&& [key, node] : own) {
        const toml::node* const its = other.get(key.str());
        const toml::table* const its_table = its == nullptr ? nullptr : its->as_table();
        const toml::array* const its_list = its == nullptr ? nullptr : its->as_array();
        if (toml::table* const table = node.as_table())
            take_over_lists(*table, its_table == nullptr ? nothing : *its_table, fail);
        toml::array* const list = node.as_array();
        if (list == nullptr) continue;
        for (std::size_t i = 0; i < list->size(); ++i) {
            if (toml::table* const block = list->get(i)->as_table()) {
                const auto name = (*block)["name"].value<std::string_view>();
                const toml::table* const same = name ? block_named(its_list, *name) : nullptr;
                take_over_lists(*block, same == nullptr ? nothing : *same, fail);
            }
            if (!is_dots(*list->get(i))) continue;
            if (its_list == nullptr) {
                fail(*list->get(i),
                     "'...' stands for what the file that this one extends has there, and there is "
                     "no such list");
                continue;
            }
            list->erase(list->begin() + static_cast<std::ptrdiff_t>(i));
            std::size_t at = i;
            for (const toml::node& element : *its_list) {
                element.visit([&](const auto& value) {
                    list->insert(list->begin() + static_cast<std::ptrdiff_t>(at), value);
                });
                ++at;
            }
            i = at - 1;
        }
    }
}

}  // namespace hollow_probe

#include <fmt/format.h>

#include "hollow_probe/report/front.hpp"
#include "report/text_table.hpp"

namespace hollow_probe {

template <int D>
std::string front_text(const std::string& title, const TuningFront<D>& front, const TextOptions& options) {
    std::string out = title + "\n\n";
    TextTable table;
    std::vector<std::string> head = {"", "missed", "false", "takes"};
    head.insert(head.end(), front.settings.begin(), front.settings.end());
    table.add(head);
    const auto add = [&](const std::string& name, const FrontRig<D>& one) {
        std::vector<std::string> row = {name, measure_text(one.wrong.missed), measure_text(one.wrong.falsely),
                                        plain(one.effort)};
        for (const std::string& value : one.values) row.push_back(value.empty() ? "not given" : value);
        table.add(row);
    };
    add("now", front.before);
    const FrontRig<D>* right = nullptr;
    for (std::size_t i = 0; i < front.rigs.size(); ++i) {
        const FrontRig<D>& one = front.rigs[i];
        add(std::to_string(i + 1), one);
        if (one.wrong.poses() == 0 && (right == nullptr || one.effort < right->effort)) right = &one;
    }
    out += table.text() + "\n";
    std::string words = fmt::format(
        "None of these is as good as another in all three and better in one: missed and false by measure, "
        "and "
        "lines, volumes and pieces looked at in a reading. {} rigs were tried.",
        front.tried);
    if (right != nullptr)
        words += fmt::format(" Nothing is wrong with {}{}.", right - front.rigs.data() + 1,
                             front.rigs.size() > 1 ? ", the cheapest of such" : "");
    if (front.rigs.empty())
        words = fmt::format("Nothing was found among {} rigs that could be.", front.tried);
    for (const std::string& line : wrapped(words, options.width)) out += line + "\n";
    return out;
}

template std::string front_text<2>(const std::string&, const TuningFront<2>&, const TextOptions&);
template std::string front_text<3>(const std::string&, const TuningFront<3>&, const TextOptions&);

}  // namespace hollow_probe

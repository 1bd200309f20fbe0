#include "hollow_probe/report/live.hpp"

#include <variant>

#include "hollow_probe/io/level_file.hpp"
#include "report/live/live_room.hpp"

namespace hollow_probe {
namespace {

std::string text_of(const Json& json) {
    return json.dump(-1, ' ', false, Json::error_handler_t::replace);
}

}  // namespace

struct LiveBench::Room {
    std::mutex telling;
    std::variant<std::monostate, std::unique_ptr<LiveRoom<2>>, std::unique_ptr<LiveRoom<3>>> room;

    template <class What>
    auto with(What what) {
        if (auto* const plane = std::get_if<1>(&room)) return what(**plane);
        return what(*std::get<2>(room));
    }
};

LiveBench::LiveBench(LiveFiles files, const LiveOptions& options,
                     std::function<void(const std::string&)> tell)
    : room_(std::make_unique<Room>()) {
    const auto tell_all = [room = room_.get(), tell = std::move(tell)](const Json& news) {
        const std::string text = text_of(news);
        const std::lock_guard lock(room->telling);
        tell(text);
    };
    AnyLevel level = load_level(files.level);
    std::visit(
        [&]<int D>(Level<D>& of_dimension) {
            room_->room =
                std::make_unique<LiveRoom<D>>(std::move(files), options, std::move(of_dimension), tell_all);
        },
        level);
}

LiveBench::~LiveBench() = default;

std::string LiveBench::page() const {
    return room_->with([](auto& room) { return room.page(); });
}

std::string LiveBench::answer(const std::string& question) noexcept {
    try {
        const Json asked = Json::parse(question, nullptr, false);
        Json answer;
        try {
            if (!asked.is_object()) throw InvalidInput("a question is a JSON object");
            answer = room_->with([&](auto& room) { return room.answer(asked); });
        } catch (const std::exception& error) {
            answer = {{"refused", error.what()}};
        }
        if (asked.is_object() && asked.contains("id")) answer["re"] = asked["id"];
        return text_of(answer);
    } catch (...) {
        return R"({"refused": "out of memory"})";
    }
}

void LiveBench::look_at_files() {
    room_->with([](auto& room) { room.look_at_files(); });
}

}  // namespace hollow_probe

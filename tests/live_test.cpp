// The live bench without a network: questions in, answers and news out.
#include <catch2/catch.hpp>

#include <chrono>
#include <condition_variable>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <mutex>
#include <nlohmann/json.hpp>

#include "hollow_probe/io/atomic_file.hpp"
#include "hollow_probe/io/drill_file.hpp"
#include "hollow_probe/io/level_file.hpp"
#include "hollow_probe/io/rig_file.hpp"
#include "hollow_probe/motion/play.hpp"
#include "hollow_probe/report/live.hpp"
#include "scenes.hpp"

using namespace scenes;
namespace fs = std::filesystem;
using Json = nlohmann::ordered_json;

namespace {

constexpr const char* level_text = R"(format = "hollow-probe level 1"
dimensions = 2
layers = ["masonry", "grating"]
[[solid]]
name = "quay"
layer = "masonry"
box = { center = [0.0, -0.5], size = [20.0, 1.0] }
[[solid]]
name = "weir"
layer = "masonry"
box = { center = [6.0, 0.5], size = [1.0, 1.0] }
[[solid]]
name = "walk"
layer = "grating"
box = { center = [-6.0, 1.0], size = [4.0, 0.2] }
[[start]]
name = "gate"
at = [0.0, 0.0]
heading = [1.0, 0.0]
)";

constexpr const char* rig_text = R"(# the keeper
format = "hollow-probe rig 1"
dimensions = 2
[body]
meets = ["masonry", "grating"]
[[body.stance]]
name = "upright"
capsule = { radius = 0.3, height = 1.8 }
[[body.stance]]
name = "low"
box = { size = [0.8, 0.6] }

[intent]
touch = 0.02    # a hair

# looks down
[[probe]]
name = "sole"
kind = "cast"
shape = { ball = { radius = 0.3 } }
from = [0.0, 0.3]   # at the feet
reach = 0.3         # too far
sees = ["masonry"]
accept = { angle = [0.0, 45.0] }
take = "all"

# looks ahead
[[probe]]
name = "brow"
kind = "ray"
from = [0.3, 0.9]
along = "forward"
reach = 0.4
sees = ["masonry", "grating"]

[[signal]]
name = "grounded"
claims = "ground"
any = ["sole"]

[[signal]]
name = "stopped"
claims = "wall"
all = ["brow"]
none = [{ probe = "sole", angle = [60.0, 90.0] }]

[[reflex]]
on = "grounded"
do = "permit_jump"
)";

/// A folder of its own with a level and a rig in it.
struct Desk {
    Desk() : folder(fs::temp_directory_path() / ("hollow-probe-live-" + std::to_string(::getpid()))) {
        fs::remove_all(folder);
        fs::create_directories(folder);
        write_file(level(), level_text);
        write_file(rig(), rig_text);
    }
    ~Desk() { fs::remove_all(folder); }
    Desk(const Desk&) = delete;
    Desk& operator=(const Desk&) = delete;

    [[nodiscard]] std::string path(const char* name) const { return (folder / name).string(); }
    [[nodiscard]] std::string level() const { return path("weir.level.toml"); }
    [[nodiscard]] std::string rig() const { return path("keeper.rig.toml"); }
    [[nodiscard]] std::string text() const { return read_file(rig(), 1 << 20); }

    fs::path folder;
};

/// A bench, and what it has told.
struct Bench {
    explicit Bench(const Desk& desk, LiveFiles files = {}) {
        files.level = desk.level();
        files.rig = desk.rig();
        LiveOptions options;
        options.budget = 4000;
        bench = std::make_unique<LiveBench>(files, options, [this](const std::string& news) {
            {
                const std::lock_guard lock(mutex);
                told.push_back(Json::parse(news));
            }
            more.notify_all();
        });
    }

    Json ask(const Json& question) { return Json::parse(bench->answer(question.dump())); }
    Json ask(const char* what) { return ask(Json{{"ask", what}}); }
    Json state() { return ask("hello")["state"]; }
    std::string text() { return state()["text"]; }
    Json edit(const std::string& table, const std::string& name, const std::string& key, const Json& value,
              const std::string& gesture = "") {
        return ask({{"ask", "edit"},
                    {"table", table},
                    {"name", name},
                    {"key", key},
                    {"value", value},
                    {"gesture", gesture}});
    }
    /// The news of that kind about a revision, waited for.
    Json news(const std::string& kind, std::size_t revision) {
        std::unique_lock lock(mutex);
        Json found;
        const bool came = more.wait_for(lock, std::chrono::minutes(2), [&] {
            for (const Json& one : told) {
                if (one["tell"] == kind && one["revision"] == revision) found = one;
            }
            return !found.is_null();
        });
        REQUIRE(came);
        return found;
    }

    /// How often news of that kind was told.
    std::size_t count(const std::string& kind) {
        const std::scoped_lock lock(mutex);
        return std::count_if(told.begin(), told.end(), [&](const Json& one) { return one["tell"] == kind; });
    }
    /// The news of that kind that is told `number` times, from 1, waited for.
    Json last_news(const std::string& kind, std::size_t number) {
        std::unique_lock lock(mutex);
        Json found;
        const bool came = more.wait_for(lock, std::chrono::minutes(2), [&] {
            std::size_t count = 0;
            for (const Json& one : told) {
                if (one["tell"] == kind && ++count == number) found = one;
            }
            return !found.is_null();
        });
        REQUIRE(came);
        return found;
    }

    std::mutex mutex;
    std::condition_variable more;
    std::vector<Json> told;
    std::unique_ptr<LiveBench> bench;  // last: it tells until it ends
};

bool is_refused(const Json& answer) {
    return answer.contains("refused");
}

Json verdict_of(const Json& answer, const std::string& signal) {
    for (const Json& one : answer["pose"]["signals"]) {
        if (one["name"] == signal) return one["verdict"];
    }
    return nullptr;
}

/// Every number that is drawn or told, bit by bit.
template <int D>
bool same_ticks(const TickRecord<D>& a, const TickRecord<D>& b) {
    const auto same = [](const Vec<D>& x, const Vec<D>& y) {
        return std::memcmp(x.data(), y.data(), D * sizeof(double)) == 0;
    };
    return same(a.anchor, b.anchor) && same(a.velocity, b.velocity) && same(a.heading, b.heading) &&
           a.stance == b.stance && a.seconds == b.seconds && a.jumped == b.jumped &&
           a.signals_on == b.signals_on && a.truths_on == b.truths_on && a.probes_on == b.probes_on &&
           a.clip == b.clip;
}

}  // namespace

TEST_CASE("a body under the hand: probes, truths and verdicts at a pose, known by hand") {
    const Desk desk;
    Bench bench(desk);
    const auto at = [&](double x, double y, bool rests = false) {
        return bench.ask(
            {{"ask", "pose"}, {"rests", rests}, {"pose", {{"at", {x, y}}, {"heading", {1.0, 0.0}}}}});
    };
    const Json standing = at(0.0, 0.0);
    CHECK(verdict_of(standing, "grounded") == 0);  // true contact
    CHECK(verdict_of(standing, "stopped") == 3);   // true clear
    CHECK(standing["pose"]["clips"].is_null());
    // The sole reaches 0.3 where ground ends at 0.02.
    CHECK(verdict_of(at(0.0, 0.2), "grounded") == 2);
    // Exactly at the limit of touch, where rounding decides what is true.
    CHECK(verdict_of(at(-6.0, 1.12 - 1e-10), "grounded") == 4);
    // It does not see gratings: the walk's top is at 1.1.
    CHECK(verdict_of(at(-6.0, 1.1), "grounded") == 1);
    // Before the weir, whose face is at 5.5: the brow reaches 0.7 ahead of the anchor, a wall counts within
    // 0.02 of 0.3.
    CHECK(verdict_of(at(5.0, 0.0), "stopped") == 2);
    CHECK(verdict_of(at(5.19, 0.0), "stopped") == 0);
    CHECK(at(6.0, 0.5)["pose"]["clips"] == "weir");
    // Put down: on the weir, and on the walk's top or the quay, whichever is nearer.
    CHECK(at(6.0, 1.3, true)["pose"]["anchor"][1].get<double>() == Approx(1.0).margin(1e-6));
    CHECK(at(-6.0, 0.9, true)["pose"]["anchor"][1].get<double>() == Approx(1.1).margin(1e-6));
    CHECK(at(0.0, 0.4, true)["pose"]["anchor"][1].get<double>() == Approx(0.0).margin(1e-6));
    // What is low has room below the walk, too: the nearest rest is taken.
    for (const auto& [from, to] : {std::pair{0.3, 0.0}, {0.8, 1.1}, {1.4, 1.1}, {-0.2, 0.0}}) {
        const Json put = bench.ask(
            {{"ask", "pose"}, {"rests", true}, {"pose", {{"at", {-6.0, from}}, {"stance", "low"}}}});
        CHECK(put["pose"]["anchor"][1].get<double>() == Approx(to).margin(1e-6));
    }
    const Json low = bench.ask({{"ask", "pose"}, {"pose", {{"at", {0.0, 0.0}}, {"stance", "low"}}}});
    CHECK(low["pose"]["stance"] == "low");
    // What the rig remembers, and the way it moves and is driven, is what it is asked with.
    std::string text = bench.text();
    text.replace(text.find("reach = 0.3 "), 12, "reach = { grounded = 0.5, airborne = 0.02 } ");
    text.replace(text.find("along = \"forward\""), 17, "along = \"drive\"");
    REQUIRE_FALSE(is_refused(bench.ask({{"ask", "text"}, {"text", text}})));
    const auto on = [&](const char* signal, const Json& pose) {
        const Json answer = bench.ask({{"ask", "pose"}, {"pose", pose}});
        for (const Json& one : answer["pose"]["signals"])
            if (one["name"] == signal) return one["on"].get<bool>();
        return false;
    };
    CHECK(on("grounded", {{"at", {0.0, 0.2}}, {"grounded", true}}));
    CHECK_FALSE(on("grounded", {{"at", {0.0, 0.2}}, {"grounded", false}}));
    CHECK(on("stopped", {{"at", {5.0, 0.0}}, {"drive", {2.0, 0.0}}}));
    CHECK_FALSE(on("stopped", {{"at", {5.0, 0.0}}, {"drive", {-2.0, 0.0}}}));
    CHECK_FALSE(on("stopped", {{"at", {5.0, 0.0}}}));
}

TEST_CASE("a field is changed in the file's own text, comments and all, and back") {
    const Desk desk;
    Bench bench(desk);
    REQUIRE_FALSE(is_refused(bench.edit("probe", "sole", "reach", 0.02)));
    std::string expected = rig_text;
    expected.replace(expected.find("reach = 0.3 "), 11, "reach = 0.02");
    CHECK(bench.text() == expected);
    REQUIRE_FALSE(is_refused(bench.edit("probe", "sole", "sees", {"masonry", "grating"})));
    REQUIRE_FALSE(is_refused(bench.edit("intent", "", "touch", 0.03)));
    REQUIRE_FALSE(is_refused(bench.edit("intent", "", "tallest_step", 0.5)));
    REQUIRE_FALSE(is_refused(bench.edit("intent", "", "forgive.late", 0.1)));
    REQUIRE_FALSE(is_refused(bench.edit("probe", "brow", "along", {1.0, -1.0})));
    REQUIRE_FALSE(is_refused(bench.edit("probe", "brow", "take", "all")));
    REQUIRE_FALSE(is_refused(bench.edit("signal", "grounded", "grace", 0.1)));
    REQUIRE_FALSE(is_refused(bench.edit("signal", "grounded", "any", {"sole", "brow"})));
    const std::string text = bench.text();
    for (const char* kept : {"# the keeper", "# a hair", "# at the feet", "# too far", "# looks ahead"}) {
        INFO(kept);
        CHECK(text.find(kept) != std::string::npos);
    }
    const Level<2> level = std::get<Level<2>>(load_level(desk.level()));
    const Rig<2> rig = rig_from_toml<2>(text, "text", level);
    CHECK(rig.intent.touch == 0.03);
    CHECK(rig.intent.tallest_step == 0.5);
    CHECK(rig.intent.forgive.late == 0.1);
    CHECK((rig.probes[1].line().along - Vec<2>(1, -1).normalized()).norm() < 1e-8);
    CHECK(rig.probes[1].line().take == Take::all);
    CHECK(rig.signals[0].members.any.size() == 2);
    CHECK(rig.signals[1].members.none.front().has_condition());
    CHECK(desk.text() == rig_text);  // nothing is written before it is saved
    for (int i = 0; i < 9; ++i) REQUIRE_FALSE(is_refused(bench.ask("undo")));
    CHECK(bench.text() == rig_text);
    CHECK(is_refused(bench.ask("undo")));
    for (int i = 0; i < 9; ++i) REQUIRE_FALSE(is_refused(bench.ask("redo")));
    CHECK(bench.text() == text);
    CHECK(is_refused(bench.ask("redo")));
}

TEST_CASE("one pull of a slider is one step back") {
    const Desk desk;
    Bench bench(desk);
    for (const double reach : {0.29, 0.25, 0.2, 0.1})
        (void)bench.edit("probe", "sole", "reach", reach, "slide 1");
    for (const double reach : {0.12, 0.15}) (void)bench.edit("probe", "sole", "reach", reach, "slide 2");
    (void)bench.ask("undo");
    CHECK(bench.text().find("reach = 0.1 ") != std::string::npos);
    (void)bench.ask("undo");
    CHECK(bench.text() == rig_text);
    // What was taken back is not pulled on: it is begun anew.
    (void)bench.edit("probe", "brow", "reach", 0.5, "slide 3");
    const std::string kept = bench.text();
    (void)bench.edit("probe", "sole", "reach", 0.2, "slide 4");
    (void)bench.ask("undo");
    (void)bench.edit("probe", "sole", "reach", 0.1, "slide 4");
    (void)bench.ask("undo");
    CHECK(bench.text() == kept);
}

TEST_CASE("what cannot be is refused in words, and all stays") {
    const Desk desk;
    Bench bench(desk);
    const std::vector<Json> refused = {
        {{"ask", "edit"}, {"table", "probe"}, {"name", "sole"}, {"key", "reach"}, {"value", -1.0}},
        {{"ask", "edit"}, {"table", "probe"}, {"name", "sole"}, {"key", "reach"}, {"value", "far"}},
        {{"ask", "edit"}, {"table", "probe"}, {"name", "sole"}, {"key", "reach"}},
        {{"ask", "edit"}, {"table", "probe"}, {"name", "sole"}, {"key", "sees"}, {"value", {"water"}}},
        {{"ask", "edit"}, {"table", "probe"}, {"name", "sole"}, {"key", "sees"}, {"value", Json::array()}},
        {{"ask", "edit"},
         {"table", "probe"},
         {"name", "sole"},
         {"key", "accept.angle"},
         {"value", {50.0, 10.0}}},
        {{"ask", "edit"}, {"table", "probe"}, {"name", "sole"}, {"key", "accept.angle"}, {"value", {1.0}}},
        {{"ask", "edit"}, {"table", "probe"}, {"name", "nobody"}, {"key", "reach"}, {"value", 1.0}},
        {{"ask", "edit"}, {"table", "signal"}, {"name", "grounded"}, {"key", "any"}, {"value", {"nobody"}}},
        {{"ask", "edit"},
         {"table", "signal"},
         {"name", "grounded"},
         {"key", "any"},
         {"value", Json::array()}},
        {{"ask", "edit"}, {"table", "intent"}, {"name", ""}, {"key", "tallest_step"}, {"value", 0.01}},
        {{"ask", "edit"}, {"table", "body"}, {"name", ""}, {"key", "meets"}, {"value", {"masonry"}}},
        {{"ask", "text"}, {"text", "format = 3"}},
        {{"ask", "part"}, {"how", "remove"}, {"table", "probe"}, {"name", "nobody"}},
        // A signal may not be left without members.
        {{"ask", "part"}, {"how", "remove"}, {"table", "probe"}, {"name", "sole"}},
        {{"ask", "part"}, {"how", "rename"}, {"table", "probe"}, {"name", "sole"}, {"to", "brow"}},
        {{"ask", "part"}, {"how", "add"}, {"kind", "nose"}},
        {{"ask", "fix"}, {"number", 99}},
        {{"ask", "ticks"}, {"count", 1}},
        {{"ask", "drill"}},
        {{"ask", "nothing"}},
        {{"ask", 3}},
        Json::array({1, 2})};
    for (const Json& question : refused) {
        INFO(question.dump());
        const Json answer = bench.ask(question);
        REQUIRE(is_refused(answer));
        CHECK(answer["refused"].get<std::string>().size() > 5);
        CHECK(bench.text() == rig_text);
    }
    CHECK(is_refused(Json::parse(bench.bench->answer("no JSON at all"))));
}

TEST_CASE("ten thousand mangled questions end nothing") {
    const Desk desk;
    Bench bench(desk);
    const std::vector<std::string> questions = {
        R"({"ask":"pose","pose":{"at":[0.0,0.0],"heading":[1.0,0.0],"stance":"low","velocity":[1,0],"drive":[1,0],"grounded":true,"time":0}})",
        R"({"ask":"edit","table":"probe","name":"sole","key":"reach","value":0.2,"gesture":"g"})",
        R"({"ask":"part","how":"copy","table":"probe","name":"sole"})",
        R"({"ask":"play","pose":{"at":[0,0]}})",
        R"({"ask":"ticks","count":2,"cues":[{"drive":[1,0],"press":"jump","stance":"low"}]})",
        R"({"ask":"drill","to":1,"shortened":true})"};
    std::uint64_t state = 7;
    const auto next = [&](std::size_t below) {
        state = state * 6364136223846793005U + 1442695040888963407U;
        return static_cast<std::size_t>(state >> 33U) % below;
    };
    for (int i = 0; i < 10'000; ++i) {
        std::string question = questions[next(questions.size())];
        const std::size_t changes = 1 + next(3);
        for (std::size_t k = 0; k < changes; ++k) {
            const std::size_t at = next(question.size());
            switch (next(4)) {
                case 0:
                    question.erase(at, 1 + next(4));
                    break;
                case 1:
                    question.insert(at, 1, static_cast<char>(next(256)));
                    break;
                case 2:
                    question[at] = "0123456789.-e[]{}\",:"[next(20)];
                    break;
                default:
                    question.replace(at, 1, "1e308");
            }
            if (question.empty()) question = "{";
        }
        const Json answer = Json::parse(bench.bench->answer(question));
        REQUIRE(answer.is_object());
    }
    CHECK_FALSE(is_refused(bench.ask({{"ask", "pose"}, {"pose", {{"at", {0.0, 0.0}}}}})));
}

TEST_CASE("probes are added, copied, renamed and removed in the file's text") {
    const Desk desk;
    Bench bench(desk);
    const Level<2> level = std::get<Level<2>>(load_level(desk.level()));
    const auto rig = [&] { return rig_from_toml<2>(bench.text(), "text", level); };
    for (const char* kind : {"ray", "cast", "zone", "shift", "contact"}) {
        INFO(kind);
        const Json added = bench.ask({{"ask", "part"}, {"how", "add"}, {"kind", kind}});
        REQUIRE_FALSE(is_refused(added));
        CHECK(rig().probes.back().name == added["name"]);
        CHECK(std::string(name_of(rig().probes.back().kind())) == kind);
    }
    const Json copied = bench.ask({{"ask", "part"}, {"how", "copy"}, {"table", "probe"}, {"name", "sole"}});
    CHECK(copied["name"] == "sole 2");
    CHECK(rig().probes.size() == 8);
    CHECK(rig().probes.back().line().accept_most_degrees == 45.0);
    // Wherever it is named: in lists, in tables with conditions.
    REQUIRE_FALSE(is_refused(bench.ask(
        {{"ask", "part"}, {"how", "rename"}, {"table", "probe"}, {"name", "sole"}, {"to", "boots"}})));
    CHECK(rig().signals[0].members.any.front().name == "boots");
    CHECK(rig().signals[1].members.none.front().name == "boots");
    REQUIRE_FALSE(is_refused(bench.ask(
        {{"ask", "part"}, {"how", "rename"}, {"table", "signal"}, {"name", "grounded"}, {"to", "on feet"}})));
    CHECK(rig().reflexes[0].on == "on feet");
    // Members go with what they name; a comment goes with the block it stands above.
    REQUIRE_FALSE(is_refused(bench.edit("signal", "on feet", "any", {"boots", "sole 2"})));
    REQUIRE_FALSE(
        is_refused(bench.ask({{"ask", "part"}, {"how", "remove"}, {"table", "probe"}, {"name", "boots"}})));
    CHECK(rig().signals[0].members.any.size() == 1);
    CHECK(rig().signals[1].members.none.empty());
    CHECK(bench.text().find("# looks down") == std::string::npos);
    CHECK(bench.text().find("# looks ahead") != std::string::npos);
    while (!is_refused(bench.ask("undo"))) {
    }
    CHECK(bench.text() == rig_text);
}

TEST_CASE("files stay the truth: saved, taken over, or a conflict with both texts") {
    const Desk desk;
    Bench bench(desk);
    (void)bench.edit("probe", "sole", "reach", 0.05);
    CHECK(bench.state()["saved"] == false);
    REQUIRE_FALSE(is_refused(bench.ask("save")));
    CHECK(desk.text() == bench.text());
    CHECK(bench.state()["saved"] == true);

    std::string theirs = desk.text();
    theirs.replace(theirs.find("0.05"), 4, "0.07");
    write_file(desk.rig(), theirs);
    bench.bench->look_at_files();
    CHECK(bench.text() == theirs);  // nothing here was unsaved
    CHECK(bench.state()["saved"] == true);
    (void)bench.ask("undo");  // and it can be taken back
    CHECK(bench.text().find("0.05") != std::string::npos);
    (void)bench.ask("redo");

    (void)bench.edit("probe", "sole", "reach", 0.11);
    const std::string mine = bench.text();
    write_file(desk.rig(), rig_text);
    CHECK(is_refused(bench.ask("save")));  // before anybody looked
    CHECK(desk.text() == rig_text);
    CHECK(bench.state()["conflict"] == rig_text);
    CHECK(bench.text() == mine);
    (void)bench.ask("keep_mine");
    CHECK(bench.state()["conflict"].is_null());
    REQUIRE_FALSE(is_refused(bench.ask("save")));
    CHECK(desk.text() == mine);

    (void)bench.edit("probe", "sole", "reach", 0.13);
    write_file(desk.rig(), rig_text);
    bench.bench->look_at_files();
    CHECK(bench.state()["conflict"] == rig_text);
    // While it is written anew, what is there for a moment is nobody's text; what comes after it is told.
    write_file(desk.rig(), "");
    bench.bench->look_at_files();
    CHECK(bench.state()["conflict"] == rig_text);
    std::string later = rig_text;
    later += "# by another hand\n";
    write_file(desk.rig(), later);
    const std::size_t told = bench.count("rig");
    bench.bench->look_at_files();
    CHECK(bench.count("rig") == told + 1);
    CHECK(bench.state()["conflict"] == later);
    write_file(desk.rig(), rig_text);
    bench.bench->look_at_files();
    (void)bench.ask("take_theirs");
    CHECK(bench.text() == rig_text);
    CHECK(bench.state()["conflict"].is_null());

    // A text that is no rig is no conflict until it would be written over.
    const std::string before = bench.text();
    (void)bench.edit("probe", "sole", "reach", 0.15);
    write_file(desk.rig(), "half a r");
    bench.bench->look_at_files();
    CHECK(bench.state()["conflict"].is_null());
    CHECK(is_refused(bench.ask("save")));
    CHECK(desk.text() == "half a r");
    CHECK(bench.state()["conflict"] == "half a r");
    CHECK(is_refused(bench.ask("take_theirs")));
    (void)bench.ask("keep_mine");
    REQUIRE_FALSE(is_refused(bench.ask("save")));
    CHECK(desk.text() == bench.text());
    (void)bench.ask("undo");
    REQUIRE_FALSE(is_refused(bench.ask("save")));
    CHECK(desk.text() == before);

    write_file(desk.rig(), "no rig");  // left alone until it is one again
    bench.bench->look_at_files();
    CHECK(bench.text() == rig_text);

    // A level that is none is told, for as long as it is there, and the one before stays.
    write_file(desk.level(), "no level");
    for (int i = 0; i < 3; ++i) bench.bench->look_at_files();
    CHECK(bench.state()["notice"].get<std::string>().find("weir.level.toml:1") != std::string::npos);
    CHECK(bench.ask({{"ask", "pose"}, {"pose", {{"at", {6.0, 0.2}}}}})["pose"]["clips"] == "weir");
    std::string level = level_text;
    level.replace(level.find("[6.0, 0.5]"), 10, "[3.0, 0.5]");
    write_file(desk.level(), level);
    bench.bench->look_at_files();
    const Json there = bench.ask({{"ask", "pose"}, {"pose", {{"at", {3.0, 0.2}}}}});
    CHECK(there["pose"]["clips"] == "weir");
    CHECK(bench.state()["notice"] == "");
}

TEST_CASE("each change is surveyed, a fix made by its number, and rigs are held beside each other") {
    const Desk desk;
    Bench bench(desk);
    const Json advice = bench.news("advice", 1)["data"];
    REQUIRE(advice["fixes"].size() > 0);
    const auto wrong = [](const Json& survey) {
        std::size_t poses = 0;
        for (const Json& signal : survey["signals"])
            poses += signal["poses"][1].get<std::size_t>() + signal["poses"][2].get<std::size_t>();
        return poses;
    };
    REQUIRE(wrong(advice) > 0);
    // By hand the sole is right at 0.02 and with the gratings seen.
    (void)bench.edit("probe", "sole", "reach", 0.02);
    (void)bench.edit("probe", "sole", "sees", {"masonry", "grating"});
    const Json after = bench.news("advice", 3)["data"];
    CHECK(wrong(after) < wrong(advice));
    CHECK(after["signals"][0]["poses"][2] == 0);
    CHECK(bench.news("before", 3)["data"]["signals"][0]["poses"][1].get<int>() > 0);
    CHECK(bench.news("sheet", 3)["data"]["rows"].size() > 10);
    // Advice of another state is not followed.
    (void)bench.ask("undo");
    (void)bench.ask("undo");
    (void)bench.news("advice", 5);
    REQUIRE_FALSE(is_refused(bench.ask({{"ask", "fix"}, {"number", 0}})));
    CHECK(is_refused(bench.ask({{"ask", "fix"}, {"number", 0}})));
    const Json fixed = bench.news("advice", 6)["data"];
    CHECK(wrong(fixed) < wrong(advice));
}

TEST_CASE("tuning is begun, told, stopped, and what it finds is taken") {
    const Desk desk;
    Bench bench(desk);
    (void)bench.edit("probe", "sole", "sees", {"masonry", "grating"});
    CHECK(is_refused(bench.ask({{"ask", "tune"}, {"free", {"probe.sole.nothing"}}})));
    REQUIRE_FALSE(is_refused(bench.ask({{"ask", "tune"}, {"free", {"probe.sole.reach"}}})));
    const Json tuned = bench.news("tuned", 2)["data"];
    REQUIRE(tuned["better"] == true);
    REQUIRE_FALSE(is_refused(bench.ask("take_tuned")));
    const Level<2> level = std::get<Level<2>>(load_level(desk.level()));
    // Ground counts within 0.02 of the feet, and a ball as round as they are feels just that.
    CHECK(rig_from_toml<2>(bench.text(), "text", level).probes[0].line().reach == Approx(0.02).margin(0.002));
    REQUIRE_FALSE(is_refused(bench.ask(
        {{"ask", "tune"}, {"free", {"probe.sole.reach", "probe.brow.reach", "probe.brow.from[0]"}}})));
    (void)bench.ask("stop_tuning");
    CHECK_FALSE(is_refused(bench.ask("hello")));
}

TEST_CASE("tuning within ends that are given, by a weight, and with the drill's promises kept") {
    const Desk desk;
    LiveFiles files;
    files.drill = desk.path("hop.drill.toml");
    // A jump from the quay: the sole, which reaches 0.3 too far, is falsely on for some ticks.
    write_file(files.drill, R"(format = "hollow-probe drill 1"
level = "weir.level.toml"
rig = "keeper.rig.toml"
at = [0.0, 0.0]
seconds = 1.0
[motion]
model = "slide"
gravity = 20.0
jump_speed = 6.0
[[expect]]
most = { false_ticks = 0 }
signal = "grounded"
[[cue]]
at = 0.1
press = "jump"
)");
    Bench bench(desk, files);
    const auto tune = [&](double from, double to) {
        return Json{{"ask", "tune"},
                    {"free", {{{"path", "probe.sole.reach"}, {"from", from}, {"to", to}}}},
                    {"drill", true},
                    {"missed_weight", 2.0}};
    };
    for (const Json& wrong :
         {Json{{"ask", "tune"}, {"free", {{{"path", "probe.sole.reach"}, {"from", 0.1}}}}},
          Json{{"ask", "tune"}, {"free", {{{"path", "probe.sole.reach"}, {"from", "a"}, {"to", 1}}}}},
          Json{{"ask", "tune"}, {"free", {7}}},
          Json{{"ask", "tune"}, {"free", {{{"from", 0.1}, {"to", 0.2}}}}},
          Json{{"ask", "tune"}, {"free", {"probe.sole.reach"}}, {"missed_weight", 0.0}}})
        CHECK(is_refused(bench.ask(wrong)));
    // No reach from 0.15 on keeps the promise (the first tick rises 0.1): the nearest to right is that end.
    REQUIRE_FALSE(is_refused(bench.ask(tune(0.15, 0.4))));
    const Json ended = bench.news("tuned", 1)["data"];
    REQUIRE(ended.contains("settings"));
    CHECK(ended["broken_before"] == 1);
    CHECK(ended["broken_after"] == 1);
    CHECK(std::stod(ended["settings"][0]["is"].get<std::string>()) == Approx(0.15).margin(1e-9));
    REQUIRE_FALSE(is_refused(bench.ask(tune(0.001, 0.4))));
    const Json kept = bench.last_news("tuned", 2)["data"];
    CHECK(kept["broken_after"] == 0);
    CHECK(std::stod(kept["settings"][0]["is"].get<std::string>()) <= 0.02 + 1e-9);
    REQUIRE_FALSE(is_refused(bench.ask("take_tuned")));
    CHECK(bench.text().find("reach = 0.3 ") == std::string::npos);
    // What is not there cannot be kept.
    Bench alone(desk);
    CHECK(is_refused(alone.ask(tune(0.1, 0.4))));
}

TEST_CASE("another rig to hold it against may come as a text, and is read beside in play") {
    const Desk desk;
    Bench bench(desk);
    std::string other = rig_text;
    other.replace(other.find("reach = 0.4"), 11, "reach = 9.0");
    CHECK(is_refused(bench.ask({{"ask", "before"}, {"name", "x.rig.toml"}, {"text", "no rig"}})));
    CHECK(is_refused(bench.ask({{"ask", "before"}, {"text", other}})));
    CHECK(bench.state()["before"] == "as opened");
    REQUIRE_FALSE(is_refused(bench.ask({{"ask", "before"}, {"name", "/far/old.rig.toml"}, {"text", other}})));
    CHECK(bench.state()["before"] == "old.rig.toml");
    // The weir's face is at 5.5: seen by the longer brow alone, from afar.
    const Json pose = {{"at", {0.0, 0.0}}, {"heading", {1.0, 0.0}}};
    const Json seen = bench.ask({{"ask", "pose"}, {"pose", pose}, {"beside", true}});
    CHECK(seen["pose"]["probes"][1]["on"] == false);
    CHECK(seen["before"]["probes"][1]["on"] == true);
    REQUIRE_FALSE(is_refused(bench.ask({{"ask", "play"}, {"pose", pose}})));
    const Json played = bench.ask({{"ask", "ticks"}, {"count", 3}, {"beside", true}})["frames"];
    std::size_t shapes = 0;
    for (const Json& frame : played) {
        CHECK(frame["pose"]["probes"][1]["on"] == false);
        CHECK(frame["before"]["probes"][1]["on"] == true);
        CHECK(frame["before"]["probes"][1]["lines"][0]["hit"]["point"][0].get<double>() == Approx(5.5));
        shapes += frame["before"].contains("shapes") ? 1 : 0;
    }
    CHECK(shapes == 1);
    const Json plainly = bench.ask({{"ask", "ticks"}, {"count", 1}})["frames"][0];
    CHECK(plainly["before"].is_null());
}

TEST_CASE("a hunt goes on from a tick, and its drill keeps what was played till then") {
    const Desk desk;
    LiveFiles files;
    files.record = desk.path("found.drill.toml");
    Bench bench(desk, files);
    CHECK(is_refused(bench.ask("hunt")));  // nothing is played
    CHECK(is_refused(bench.ask("write_hunted")));
    REQUIRE_FALSE(is_refused(bench.ask({{"ask", "play"}, {"pose", {{"at", {2.0, 0.0}}}}})));
    (void)bench.ask({{"ask", "ticks"}, {"count", 30}, {"cues", {{{"drive", {-1.0, 0.0}}}}}});
    CHECK(is_refused(bench.ask({{"ask", "hunt"}, {"seconds", 0.0}})));
    CHECK(is_refused(bench.ask({{"ask", "hunt"}, {"seconds", "long"}})));
    REQUIRE_FALSE(is_refused(bench.ask({{"ask", "hunt"}, {"from", 30}, {"seconds", 2.0}})));
    const Json hunted = bench.news("hunted", 1)["data"];
    REQUIRE(hunted.contains("text"));
    REQUIRE_FALSE(is_refused(bench.ask("write_hunted")));
    const Level<2> level = std::get<Level<2>>(load_level(desk.level()));
    const Rig<2> rig = load_rig<2>(desk.rig(), level);
    CHECK(read_file(files.record, 1 << 20) == hunted["text"]);
    CHECK_FALSE(play<2>(level, rig, load_drill<2>(files.record, level, rig)).kept());
    CHECK(hunted["words"].get<std::string>().find("tick") != std::string::npos);
    // Over a body that goes nowhere and cannot jump nothing is found: it can be stopped.
    std::string still = rig_text;
    still.replace(still.find("reach = 0.3 "), 12, "reach = 0.02");
    REQUIRE_FALSE(is_refused(bench.ask({{"ask", "text"}, {"text", still}})));
    REQUIRE_FALSE(is_refused(bench.ask({{"ask", "play"}, {"pose", {{"at", {2.0, 0.0}}}}})));
    REQUIRE_FALSE(is_refused(bench.ask({{"ask", "hunt"}, {"from", 0}, {"seconds", 0.05}})));
    (void)bench.ask("stop_hunting");
    CHECK(bench.last_news("hunted", 2)["data"].contains("refused"));
}

TEST_CASE("what is played by hand is played again by the drill it makes, to the last bit") {
    const Desk desk;
    LiveFiles files;
    files.record = desk.path("played.drill.toml");
    Bench bench(desk, files);
    const Level<2> level = std::get<Level<2>>(load_level(desk.level()));
    const Rig<2> rig = load_rig<2>(desk.rig(), level);
    std::uint64_t state = 11;
    const auto next = [&](std::size_t below) {
        state = state * 6364136223846793005U + 1442695040888963407U;
        return static_cast<std::size_t>(state >> 33U) % below;
    };
    std::size_t moved = 0;
    for (int game = 0; game < 20; ++game) {
        const double x = -4.0 + 0.37 * static_cast<double>(next(20));
        const Json begun = bench.ask(
            {{"ask", "play"}, {"pose", {{"at", {x, 0.013}}, {"heading", {next(2) == 0 ? 1.0 : -1.0, 0.0}}}}});
        REQUIRE_FALSE(is_refused(begun));
        std::vector<Json> frames;
        for (int i = 0; i < 30; ++i) {
            Json cues = Json::array();
            if (next(3) == 0) cues.push_back({{"drive", {-1.0 + 0.1 * static_cast<double>(next(21)), 0.0}}});
            if (next(4) == 0) cues.push_back({{"press", "jump"}});
            if (next(12) == 0) cues.push_back({{"stance", next(2) == 0 ? "low" : "upright"}});
            const Json answer = bench.ask({{"ask", "ticks"}, {"count", 1 + next(7)}, {"cues", cues}});
            REQUIRE_FALSE(is_refused(answer));
            for (const Json& frame : answer["frames"]) frames.push_back(frame);
        }
        const Json written = bench.ask({{"ask", "drill"}, {"write", true}});
        REQUIRE_FALSE(is_refused(written));
        const DrillFiles named = files_of_drill(files.record);
        CHECK(fs::equivalent(named.level, desk.level()));
        CHECK(fs::equivalent(named.rig, desk.rig()));
        const Drill<2> drill = load_drill<2>(files.record, level, rig);
        const DrillRecord<2> record = play<2>(level, rig, drill);
        REQUIRE(record.ticks.size() == frames.size());
        for (std::size_t t = 0; t < frames.size(); ++t) {
            const TickRecord<2>& tick = record.ticks[t];
            for (int axis = 0; axis < 2; ++axis) {
                REQUIRE(frames[t]["at"][axis].get<double>() == tick.anchor[axis]);
                REQUIRE(frames[t]["velocity"][axis].get<double>() == tick.velocity[axis]);
            }
            REQUIRE(frames[t]["jumped"] == tick.jumped);
            for (std::size_t s = 0; s < 2; ++s)
                REQUIRE((frames[t]["signals"][s].get<unsigned>() & 3U) ==
                        (unsigned{tick.signals_on.has(s)} | unsigned{tick.truths_on.has(s)} << 1U));
        }
        moved += (record.last.anchor - Vec<2>(x, 0.0)).norm() > 0.5 ? 1 : 0;
    }
    CHECK(moved > 10);
}

TEST_CASE("a drill cut to what is wrong still shows it, sooner") {
    const Desk desk;
    LiveFiles files;
    files.record = desk.path("played.drill.toml");
    Bench bench(desk, files);
    REQUIRE_FALSE(is_refused(bench.ask({{"ask", "play"}, {"pose", {{"at", {-3.0, 0.0}}}}})));
    // It waits, walks about, and jumps: on the way up the sole, which reaches too far, is falsely on.
    (void)bench.ask({{"ask", "ticks"}, {"count", 90}, {"cues", {{{"drive", {0.0, 0.0}}}}}});
    (void)bench.ask({{"ask", "ticks"}, {"count", 20}, {"cues", {{{"drive", {0.4, 0.0}}}}}});
    const Json jump = bench.ask({{"ask", "ticks"}, {"count", 3}, {"cues", {{{"press", "jump"}}}}});
    REQUIRE((jump["frames"][2]["signals"][0].get<unsigned>() & 3U) == 1U);
    CHECK(is_refused(
        bench.ask({{"ask", "drill"}, {"to", 50}, {"shortened", true}})));  // nothing is wrong there
    // Up to a tick, and no cue that comes later.
    const std::string early = bench.ask({{"ask", "drill"}, {"to", 100}})["text"];
    CHECK(early.find("drive = [0.4, 0]") != std::string::npos);
    CHECK(early.find("press") == std::string::npos);
    CHECK(early.find("seconds = 1.66") != std::string::npos);
    const Json cut = bench.ask({{"ask", "drill"}, {"write", true}, {"shortened", true}});
    REQUIRE_FALSE(is_refused(cut));
    const Level<2> level = std::get<Level<2>>(load_level(desk.level()));
    const Rig<2> rig = load_rig<2>(desk.rig(), level);
    const Drill<2> drill = load_drill<2>(files.record, level, rig);
    CHECK(drill.seconds < 0.5);
    CHECK(drill.cues.size() == 1);
    CHECK_FALSE(play<2>(level, rig, drill).kept());
}

TEMPLATE_TEST_CASE_SIG(
    "an open drill makes the ticks that its drill makes, frames, jitter and loose solids among them", "",
    ((int D), D), 2, 3) {
    LevelBuilder<D> builder({"masonry", "debris"});
    Vec<D> size = Vec<D>::constant(40.0);
    size[1] = 1.0;
    builder.add("floor", "masonry", RoundedHull<D>::box(-0.5 * Vec<D>::unit(1), size));
    builder.add("crate", "debris", RoundedHull<D>::box(at<D>(6.0, 0.4), Vec<D>::constant(0.8)));
    builder.add("lift", "masonry", RoundedHull<D>::box(at<D>(-3.0, 0.1), Vec<D>::constant(0.4)));
    Path<D> path;
    path.stops = {Vec<D>::zero(), 2.0 * Vec<D>::unit(1)};
    path.pace = 0.7;
    builder.path(path);
    const Level<D> level = builder.build();
    Rig<D> rig;
    rig.body.meets = {"masonry", "debris"};
    rig.body.stances = {Stance<D>::capsule("upright", 0.3, 1.8), Stance<D>::ball("rolled", 0.4)};
    Probe<D> sole;
    sole.name = "sole";
    sole.line().from = 0.2 * Vec<D>::unit(1);
    sole.line().reach = 0.25;
    sole.sees = {"masonry", "debris"};
    rig.probes = {sole};
    Signal grounded;
    grounded.name = "grounded";
    grounded.members.any = {"sole"};
    grounded.grace = 0.05;
    rig.signals = {grounded};
    rig.reflexes = {{"grounded", ReflexKind::permit_jump}};
    std::uint64_t state = 5;
    const auto next = [&](std::size_t below) {
        state = state * 6364136223846793005U + 1442695040888963407U;
        return static_cast<std::size_t>(state >> 33U) % below;
    };
    for (int game = 0; game < 24; ++game) {
        Drill<D> drill;
        drill.at = at<D>(static_cast<double>(next(4)), 0.5);
        drill.tick_rate = std::vector<double>{30, 60, 144}[next(3)];
        drill.motion.model =
            std::vector<Model>{Model::slide, Model::push_out, Model::free, Model::loose}[next(4)];
        drill.motion.gravity = 20.0;
        drill.motion.jump_speed = 6.0;
        drill.motion.top_speed = 4.0;
        drill.motion.force = 900.0;
        if (next(2) == 0) {
            drill.sampled = Sampled::on_frame;
            drill.frame_rate = 75.0;
            drill.frame_jitter = 0.4;
            drill.frame_seed = next(9);
        }
        if (drill.motion.model == Model::loose) drill.loose = {{"crate", 20.0, 0.5}};
        OpenDrill<D> open(level, rig, drill);
        std::vector<TickRecord<D>> ticks;
        std::vector<Cue<D>> given;
        const std::size_t kept_at = next(100);
        std::optional<DrillMoment<D>> kept;
        for (int i = 0; i < 120; ++i) {
            if (ticks.size() == kept_at) kept = open.keep();
            Vec<D> drive = Vec<D>::zero();
            for (int axis = 0; axis < D; ++axis)
                if (axis != 1) drive[axis] = -1.0 + 0.1 * static_cast<double>(next(21));
            Cue<D> cue;
            if (next(6) == 0) cue.drive = drive;
            if (next(9) == 0) cue.press = "jump";
            if (next(20) == 0) cue.stance = next(2) == 0 ? "rolled" : "upright";
            given.push_back(cue);
            if (cue.drive || !cue.press.empty() || !cue.stance.empty()) open.give(cue);
            ticks.push_back(open.tick());
        }
        // Gone back, here or in a drill that knows of nothing, the same inputs make the same ticks.
        const Drill<D> whole = open.drill();
        OpenDrill<D> other(level, rig, drill);
        for (OpenDrill<D>* again : {&open, &other}) {
            again->go_back(*kept);
            REQUIRE(again->ticks() == kept_at);
            for (std::size_t t = kept_at; t < ticks.size(); ++t) {
                const Cue<D>& cue = given[t];
                if (cue.drive || !cue.press.empty() || !cue.stance.empty()) again->give(cue);
                REQUIRE(same_ticks<D>(again->tick(), ticks[t]));
            }
            REQUIRE(again->drill().cues.size() == whole.cues.size());
        }
        Cue<D> unknown;
        unknown.press = "fly";
        CHECK_THROWS_AS(open.give(unknown), InvalidInput);
        const DrillRecord<D> record = play<D>(level, rig, open.drill());
        REQUIRE(record.ticks.size() == ticks.size());
        for (std::size_t t = 0; t < ticks.size(); ++t) REQUIRE(same_ticks<D>(ticks[t], record.ticks[t]));
        for (std::size_t m = 0; m < record.moving.size(); ++m)
            CHECK(open.offset(record.moving[m]) ==
                  record.offsets[(ticks.size() - 1) * record.moving.size() + m]);
    }
}

TEST_CASE("in space as in the plane: a pose, a field, a play, the same ticks") {
    const Desk desk;
    const std::string level_file = desk.path("yard.level.toml");
    const std::string rig_file = desk.path("walker.rig.toml");
    write_file(level_file, R"(format = "hollow-probe level 1"
dimensions = 3
layers = ["masonry"]
[[solid]]
name = "floor"
layer = "masonry"
box = { center = [0.0, -0.5, 0.0], size = [20.0, 1.0, 20.0] }
[[solid]]
name = "lift"
layer = "masonry"
box = { center = [5.0, 0.1, 0.0], size = [2.0, 0.2, 2.0] }
path = { stops = [[0.0, 0.0, 0.0], [0.0, 3.0, 0.0]], pace = 1.0 }
)");
    write_file(rig_file, R"(format = "hollow-probe rig 1"
dimensions = 3
[body]
meets = ["masonry"]
[[body.stance]]
name = "upright"
capsule = { radius = 0.3, height = 1.8 }
[[probe]]
name = "sole"
kind = "cast"
shape = { ball = { radius = 0.3 } }
from = [0.0, 0.3, 0.0]
reach = 0.02
sees = ["masonry"]
[[signal]]
name = "grounded"
claims = "ground"
any = ["sole"]
[[reflex]]
on = "grounded"
do = "permit_jump"
)");
    LiveOptions options;
    options.budget = 500;
    LiveBench bench({level_file, rig_file, "", "", desk.path("space.drill.toml")}, options,
                    [](const std::string&) {});
    const auto ask = [&](const Json& question) { return Json::parse(bench.answer(question.dump())); };
    const auto at = [&](double x, double y, double seconds) {
        return ask({{"ask", "pose"},
                    {"pose", {{"at", {x, y, 0.0}}, {"heading", {0.0, 0.0, 1.0}}, {"time", seconds}}}});
    };
    CHECK(verdict_of(at(0.0, 0.0, 0.0), "grounded") == 0);
    // The lift's deck is at 0.2, and a second later at 1.2.
    CHECK(verdict_of(at(5.0, 0.2, 0.0), "grounded") == 0);
    CHECK(at(5.0, 0.2, 1.0)["pose"]["clips"] == "lift");
    CHECK(verdict_of(at(5.0, 1.2, 1.0), "grounded") == 0);
    CHECK(at(5.0, 1.2, 1.0)["moved"][0][1][1].get<double>() == Approx(1.0));
    CHECK(is_refused(ask({{"ask", "pose"}, {"pose", {{"at", {0.0, 0.0}}}}})));
    CHECK_FALSE(is_refused(ask({{"ask", "edit"},
                                {"table", "probe"},
                                {"name", "sole"},
                                {"key", "from"},
                                {"value", {0.0, 0.4, 0.1}}})));
    CHECK(ask({{"ask", "hello"}})["state"]["text"].get<std::string>().find("from = [0.0, 0.4, 0.1]") !=
          std::string::npos);
    REQUIRE_FALSE(is_refused(ask({{"ask", "undo"}})));

    REQUIRE_FALSE(is_refused(
        ask({{"ask", "play"}, {"pose", {{"at", {4.6, 0.21, 0.1}}, {"heading", {0.6, 0.0, 0.8}}}}})));
    std::vector<Json> frames;
    for (int i = 0; i < 40; ++i) {
        Json cues = Json::array();
        if (i % 7 == 3) cues.push_back({{"drive", {0.1 * i - 2.0, 0.0, 0.3}}});
        if (i % 11 == 5) cues.push_back({{"press", "jump"}});
        const Json answer = ask({{"ask", "ticks"}, {"count", 3}, {"cues", cues}});
        REQUIRE_FALSE(is_refused(answer));
        for (const Json& frame : answer["frames"]) frames.push_back(frame);
    }
    REQUIRE_FALSE(is_refused(ask({{"ask", "drill"}, {"write", true}})));
    const Level<3> level = std::get<Level<3>>(load_level(level_file));
    const Rig<3> rig = load_rig<3>(rig_file, level);
    const DrillRecord<3> record =
        play<3>(level, rig, load_drill<3>(desk.path("space.drill.toml"), level, rig));
    REQUIRE(record.ticks.size() == frames.size());
    for (std::size_t t = 0; t < frames.size(); ++t) {
        for (int axis = 0; axis < 3; ++axis)
            REQUIRE(frames[t]["at"][axis].get<double>() == record.ticks[t].anchor[axis]);
        REQUIRE(frames[t]["moved"][0][1][1].get<double>() == record.offsets[t][1]);
    }
}

// Surveys made in parts, or by several processes: the same as made at once.
#include "hollow_probe/verify/survey_part.hpp"

#include <atomic>
#include <barrier>
#include <catch2/catch.hpp>
#include <set>
#include <thread>

#include "hollow_probe/verify/kept_truths.hpp"
#include "strewn.hpp"

using namespace scenes;

namespace {

/// What may be wrong in many ways, and remembers.
template <int D>
Rig<D> remembering(double reach) {
    Rig<D> rig = probing<D>(reach);
    rig.signals[0].grace = 0.05;
    rig.probes[0].line().reach_grounded = 1.2 * reach;
    return rig;
}

template <int D>
Survey<D> in_parts(const Level<D>& level, const Rig<D>& rig, const SurveyOptions& options, std::size_t of) {
    std::vector<std::string> parts;
    for (std::size_t i = of; i-- > 0;) parts.push_back(survey_part<D>(level, rig, options, {i, of}));
    const SurveyParts found(parts);
    SurveyOptions whole = options;
    whole.parts = &found;
    return survey<D>(level, rig, whole);
}

/// Processes that share work, as threads of this one: each makes the pieces that are at home with it.
class Team {
  public:
    explicit Team(std::size_t size) : size_(size), here_(static_cast<std::ptrdiff_t>(size)) {}

    WorkSharing member(std::size_t number) {
        return [this, number](const std::vector<std::size_t>& homes,
                              const std::function<std::string(std::size_t)>& make) {
            here_.arrive_and_wait();
            if (number == 0) {
                board_.assign(homes.size(), "");
                homes_ = homes;
            }
            here_.arrive_and_wait();
            out_of_step_ = out_of_step_ || homes != homes_;
            for (std::size_t i = homes.size(); i-- > 0;) {
                if (homes[i] % size_ == number) board_[i] = make(i);
            }
            here_.arrive_and_wait();
            if (number == 0) ++stages_;
            return board_;
        };
    }
    [[nodiscard]] std::size_t stages() const { return stages_; }
    [[nodiscard]] bool out_of_step() const { return out_of_step_; }

  private:
    std::size_t size_;
    std::barrier<> here_;
    std::vector<std::string> board_;
    std::vector<std::size_t> homes_;
    std::size_t stages_ = 0;
    std::atomic<bool> out_of_step_{false};
};

}  // namespace

TEMPLATE_TEST_CASE_SIG("a survey says the same in any number of parts", "", ((int D), D), 2, 3) {
    for (const std::uint64_t seed : {1U, 2U, 3U}) {
        const Level<D> level = strewn<D>(seed);
        SurveyOptions options;
        options.budget = D == 2 ? 2000 : 1000;
        if (seed == 2) {
            options.budget.reset();
            options.spacing = D == 2 ? 0.15 : 1.5;  // one round, as close as that
        }
        Rig<D> rig = seed == 3 ? remembering<D>(0.42) : probing<D>(0.42);
        if (seed == 1) rig.probes[0].sees = {"m"};  // several causes for one finding
        if (seed == 2) {
            // The headings of what is left are alike: those that follow the first are nobody's work.
            rig.probes.pop_back();
            rig.signals.pop_back();
        }
        const Survey<D> whole = survey<D>(level, rig, options);
        REQUIRE(whole.wrong.poses() > 0);
        const std::size_t of = seed == 1 ? 5 : 2;
        require_alike<D>(in_parts<D>(level, rig, options, of), whole);
    }
}

TEMPLATE_TEST_CASE_SIG("what parts have found is taken from them, and what they lack is found", "",
                       ((int D), D), 2, 3) {
    const Level<D> level = strewn<D>(4);
    SurveyOptions options;
    options.spacing = D == 2 ? 0.15 : 2.0;
    const Rig<D> rig = probing<D>(0.42);
    const Survey<D> whole = survey<D>(level, rig, options);
    // Given for those of this rig, parts of another are told as its verdicts.
    Rig<D> other = rig;
    std::swap(other.signals[0].members.any, other.signals[0].members.none);
    SurveyOptions taken = options;
    taken.explain = false;
    const double of_other = survey<D>(level, other, taken).wrong.missed;
    const SurveyParts wrongly({survey_part<D>(level, other, options, {0, 1})});
    taken.parts = &wrongly;
    CHECK(survey<D>(level, rig, taken).wrong.missed == of_other);
    CHECK(whole.wrong.missed != of_other);
    // One part of three, or of another closeness, is not all.
    const SurveyParts some({survey_part<D>(level, rig, options, {1, 3})});
    taken = options;
    taken.parts = &some;
    require_alike<D>(survey<D>(level, rig, taken), whole);
    SurveyOptions coarse = options;
    coarse.spacing *= 1.7;
    const SurveyParts elsewhere({survey_part<D>(level, other, coarse, {0, 1})});
    taken.parts = &elsewhere;
    require_alike<D>(survey<D>(level, rig, taken), whole);
}

TEST_CASE("parts of a survey that costs something cost about the same") {
    // All that can be felt is at one end.
    LevelBuilder<2> builder({"m", "n"});
    builder.add("floor", "m", RoundedHull<2>::box({0, -0.5}, {60, 1}));
    for (int i = 0; i < 12; ++i)
        builder.add("stone " + std::to_string(i), "m", RoundedHull<2>::ball({20.0 + 0.7 * i, 1.0}, 0.4));
    const Level<2> level = builder.build();
    SurveyOptions options;
    options.spacing = 0.1;
    // Of ground alone what is found is in proportion to what is asked, roughly: shared out by columns they
    // differ fourteenfold.
    const Rig<2> rig = rig_with<2>(foot_ray<2>(0.42), {"m", "n"});
    std::vector<std::size_t> sizes;
    for (std::size_t i = 0; i < 4; ++i) sizes.push_back(survey_part<2>(level, rig, options, {i, 4}).size());
    const auto [least, most] = std::minmax_element(sizes.begin(), sizes.end());
    CAPTURE(*least, *most);
    CHECK(*most < 3 * *least);
}

TEST_CASE("parts that are none, or not whole, are refused") {
    const Level<2> level = strewn<2>(5);
    SurveyOptions options;
    options.budget = 1500;
    CHECK_THROWS_AS(survey_part<2>(level, probing<2>(0.42), options, {2, 2}), InvalidInput);
    const std::string part = survey_part<2>(level, probing<2>(0.42), options, {0, 2});
    for (const std::size_t size : {std::size_t{0}, std::size_t{5}, part.size() / 2, part.size() - 1})
        CHECK_THROWS_AS(SurveyParts({part.substr(0, size)}), InvalidInput);
    CHECK_THROWS_AS(SurveyParts({part + "x"}), InvalidInput);
}

TEMPLATE_TEST_CASE_SIG("processes that share a survey all get what one alone would", "", ((int D), D), 2, 3) {
    for (const std::size_t size : D == 2 ? std::vector<std::size_t>{2, 3} : std::vector<std::size_t>{3}) {
        const Level<D> level = strewn<D>(6 + size);
        const Rig<D> rig = size == 3 ? remembering<D>(0.42) : probing<D>(0.42);
        SurveyOptions options;
        options.budget = D == 2 ? 2000 : 1000;
        options.threads = 1;
        const Survey<D> alone = survey<D>(level, rig, options);
        REQUIRE(!alone.fixes.empty());
        Team team(size);
        std::vector<std::optional<Survey<D>>> results(size);
        std::vector<std::thread> members;
        for (std::size_t i = 0; i < size; ++i) {
            members.emplace_back([&, i] {
                SurveyOptions own = options;
                own.sharing = team.member(i);
                results[i] = survey<D>(level, rig, own);
            });
        }
        for (std::thread& member : members) member.join();
        CHECK_FALSE(team.out_of_step());
        CHECK(team.stages() > 5);
        for (const auto& result : results) require_alike<D>(*result, alone);
    }
}

TEST_CASE("what a part depends on is alike for what is alike, and differs with every setting") {
    const Level<2> level = strewn<2>(7);
    const auto of = [&](auto change) {
        Rig<2> rig = probing<2>(0.42);
        SurveyOptions options;
        change(rig, options);
        return survey_inputs<2>(level, rig, options);
    };
    const std::string as_it_is = of([](auto&, auto&) {});
    CHECK(as_it_is == of([](auto&, auto& o) { o.threads = 7; }));
    std::set<std::string> all = {
        as_it_is,
        of([](auto& r, auto&) { r.probes[0].line().reach += 1e-15; }),
        of([](auto& r, auto&) { r.probes[1].line().from[1] = 1.1; }),
        of([](auto& r, auto&) { r.probes[0].sees.pop_back(); }),
        of([](auto& r, auto&) { r.signals[0].grace = 0.1; }),
        of([](auto& r, auto&) { r.signals[1].members.any = {"foot"}; }),
        of([](auto& r, auto&) { r.intent.touch *= 1.5; }),
        of([](auto& r, auto&) { r.body.meets.pop_back(); }),
        of([](auto& r, auto&) { r.reads = Reads::before_move; }),
        of([](auto&, auto& o) { o.spacing = 0.1; }),
        of([](auto&, auto& o) { o.seed = 1; }),
        of([](auto&, auto& o) { o.budget = 5000; }),
        of([](auto&, auto& o) { o.budget = 0; }),
        of([](auto&, auto& o) {
            o.region = {0, 0, 1, 1};
        }),
        of([](auto&, auto& o) { o.speeds = {1.0}; }),
        of([](auto&, auto& o) { o.explain = false; }),
        survey_inputs<2>(strewn<2>(8), probing<2>(0.42), SurveyOptions()),
    };
    CHECK(all.size() == 17);
}

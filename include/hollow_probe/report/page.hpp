// Results as one self-contained interactive HTML page: no network, opens from disk.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "hollow_probe/motion/outcome.hpp"
#include "hollow_probe/report/junit.hpp"
#include "hollow_probe/verify/comparison.hpp"

namespace hollow_probe {

/// What a survey is called on its page, and the files that its command lines name.
struct SurveyNames {
    std::string level;  // as given to the tool
    std::string rig;
    std::string options = {};  // further ones, as given: " --spacing 0.3"
};

/// A page is put together from reports: every survey and drill added can be looked at on it.
///
///     Page page("keeper.rig.toml on culvert.level.toml");
///     page.add(level, rig, survey, {"culvert.level.toml", "keeper.rig.toml"});
///     const std::string html = page.finish();
///
/// Of a survey all wrong poses are in it, up to 150 000, and so many right ones that there are 200 000 in
/// all; of a level 400 000 triangles (2D: outline corners) at most, those nearest to the findings.
class Page {
  public:
    explicit Page(std::string title);
    ~Page();
    Page(Page&&) noexcept;
    Page& operator=(Page&&) noexcept;
    Page(const Page&) = delete;
    Page& operator=(const Page&) = delete;

    /// Returns the report's number. Reports on the same level, the same object, share its geometry.
    template <int D>
    std::size_t add(const Level<D>& level, const Rig<D>& rig, const Survey<D>& survey,
                    const SurveyNames& names);
    /// The record must have kept ticks and readings, from the start of the drill. `command` plays it again.
    template <int D>
    std::size_t add(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill,
                    const DrillRecord<D>& record, const std::string& command);
    /// The surveys added are of different rigs on one level: the page switches between them in place.
    void compare();
    /// … with what a comparison at the same poses says of their findings.
    void compare(const Comparison& comparison);
    /// … and are rigs side by side, the first of which the others are held to; not a rig and what it was
    /// before.
    void stand_beside();
    /// The results of a suite; `reports` gives for each the number of its report, or none.
    void add(const std::vector<SuiteResult>& results, const std::vector<std::optional<std::size_t>>& reports);
    /// Words to stand above everything else.
    void say(const std::string& words);

    [[nodiscard]] std::string finish() const;

  private:
    struct Data;
    std::unique_ptr<Data> data_;
};

/// A page with a title and an SVG figure (as draw_figure gives it for a name in .svg), and words below it as
/// they stand. No script.
std::string figure_page(const std::string& title, const std::string& svg, const std::string& words = "");

}  // namespace hollow_probe

// Truths that were found once, to be given again to any rig with the same body, claims and intent.
#pragma once

#include <cstddef>
#include <memory>
#include <string>
#include <string_view>

namespace hollow_probe {

/// What is true over the heights of a level's columns, which wrong verdicts are in doubt, and at which
/// heights a probe may say another thing. Surveys of one level, limited to one region, add to it and read it;
/// what they say does not depend on it. Safe from any number of threads.
///
///     KeptTruths<2> kept;
///     const Survey<2> first = survey(level, rig, options, kept);
///     rig.probes[0].reach = 0.5;
///     const Survey<2> second = survey(level, rig, options, kept);  // reads probes anew, and little else
template <int D>
class KeptTruths {
  public:
    static constexpr std::size_t standard_most_bytes = std::size_t{256} << 20U;

    /// No more is kept than about `most_bytes`, at most a quarter of it of probes; the rest is found anew.
    explicit KeptTruths(std::size_t most_bytes = standard_most_bytes);
    ~KeptTruths();
    KeptTruths(KeptTruths&&) noexcept;
    KeptTruths& operator=(KeptTruths&&) noexcept;

    /// All truths that are kept, in the byte order of this machine, and back: of the same level, region and
    /// version of this library, or surveys go wrong; whoever writes it down sees to that. More than
    /// `most_bytes` is left out. Not while a survey adds to it. from_bytes() throws InvalidInput for bytes
    /// that are not whole.
    [[nodiscard]] std::string to_bytes() const;
    static KeptTruths from_bytes(std::string_view bytes, std::size_t most_bytes = standard_most_bytes);

    [[nodiscard]] std::size_t columns() const;  // kept
    [[nodiscard]] std::size_t bytes() const;    // about

    struct Store;
    [[nodiscard]] Store& store() const { return *store_; }

  private:
    std::unique_ptr<Store> store_;
};

extern template class KeptTruths<2>;
extern template class KeptTruths<3>;

}  // namespace hollow_probe

// A level, a body and verdicts in block characters, for a terminal without pictures.
#pragma once

#include <string>

#include "hollow_probe/report/figure.hpp"

namespace hollow_probe {

struct BlockOptions {
    std::size_t columns = 100;  // at least 20
    std::size_t rows = 30;      // at least 8; of the picture, without the words below
    bool color = false;         // ANSI colours
};

/// Solids in quarter blocks, the body shaded, probes' ends and hits, and verdict marks told by their form
/// (○ missed, × false, ● true contact, □ undecided, · true clear); below it what they are, and how wide the
/// view is. With a pose the view is of the body and twice its size around it, else of the whole level. 3D: a
/// side elevation, cut at the body, what lies behind in dark shade, and in light shade the farthest fifth.
/// UTF-8.
template <int D>
std::string block_view(const Scene<D>& scene, const BlockOptions& options = {});

}  // namespace hollow_probe

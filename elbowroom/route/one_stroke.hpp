// A drawing as one stroke, for arms that cannot lift.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "elbowroom/route/strokes.hpp"

namespace er {

struct OneStrokeOptions {
  double tolerance = 5e-5;  ///< m; ends that are nearer than this to a stroke are on it
  std::optional<Eigen::Vector2d> from = {};  ///< a point of a stroke to begin at,
  std::optional<Eigen::Vector2d> to = {};    ///< and one to end at; none: wherever is shortest
};

/// The shortest way along all strokes and nowhere else: strokes branch where they meet and cross,
/// and where that needs it some stretch is passed twice (the route inspection problem; M. Guan,
/// "Graphic programming using odd and even points", 1962; with more than 12 odd branchings the
/// pairs are chosen greedily). At a branching it goes on as straight as may be. Throws InputError
/// where strokes do not hang together, with the place of the gap.
Stroke in_one_stroke(const std::vector<Stroke>& strokes, const OneStrokeOptions& options = {});

/// A text in the stroke font as one stroke: each letter from the left of its foot to the right of
/// it, and straight on from letter to letter; `lead` (m) straight before the first and after the
/// last. Throws InputError as text_strokes does.
Stroke text_in_one_stroke(const std::string& text, double height, double lead = 0.0);

}  // namespace er

// Drawings as strokes on a plane: lines that are drawn without lifting.
#pragma once

#include <Eigen/Core>
#include <string>
#include <vector>

namespace er {

/// Points in m: x to the right, y up. A curve comes as points so dense that it looks smooth.
using Stroke = std::vector<Eigen::Vector2d>;

/// The strokes of a text in capitals and digits, `height` (m) high, from the left end of its base
/// line on; small letters are written as capitals. Throws InputError for a character that the font
/// does not have, and for a height that is not above zero.
std::vector<Stroke> text_strokes(const std::string& text, double height);
/// The same letter by letter, without blanks.
std::vector<std::vector<Stroke>> letters_of(const std::string& text, double height);

/// Moved and scaled so that they are `width` (m) wide, their lower left corner at zero. Throws
/// InputError for what has no width.
std::vector<Stroke> fitted(std::vector<Stroke> strokes, double width);

/// A stroke cut at its corners: where it turns by more than about 20 deg from one point to the
/// next.
std::vector<Stroke> smooth_parts(const Stroke& stroke);

/// The share of the way from a to b that is nearest to a point, from 0 to 1.
double share_nearest(const Eigen::Vector2d& a, const Eigen::Vector2d& b,
                     const Eigen::Vector2d& point);

/// m, from a point to the nearest place of any stroke.
double distance_to(const std::vector<Stroke>& strokes, const Eigen::Vector2d& point);

/// m, along all strokes.
double length_of(const std::vector<Stroke>& strokes);

}  // namespace er

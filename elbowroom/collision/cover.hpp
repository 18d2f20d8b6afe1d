// A shape covered by balls: the whole by one, that by finer ones, down to leaves. Every point of
// the shape is in the root, and in some leaf; so what keeps clear of a ball keeps clear of what it
// covers, and only where a ball is too near do finer ones have to be looked at.
#pragma once

#include <vector>

#include "elbowroom/model/shape.hpp"

namespace er {

struct CoverBall {
  Vector3 centre = Vector3::Zero();  ///< in the shape's own frame
  double radius = 0.0;
  /// Of a leaf: a ball about its centre with this radius is all inside the shape. Below zero where
  /// the centre itself is not: then the shape comes as near to it as that, at least.
  double inside = -1.0;
  /// In the list: the ball after all that are finer than this one. A leaf's is the one after it.
  int next = 0;
};

/// The balls of a cover, each before its finer ones; the first is the root.
using Cover = std::vector<CoverBall>;

struct CoverOptions {
  /// Balls that stand out of the shape by no more than this are not split, metres.
  double bulge = 0.008;
  int most_leaves = 64;  ///< a bound on the work; large flat things would take very many
};

Cover cover_of(const Shape& shape, const CoverOptions& options = {});

/// Whether a ball has no finer ones.
inline bool is_leaf(const Cover& cover, std::size_t ball) {
  return cover[ball].next == static_cast<int>(ball) + 1;
}
int leaves_of(const Cover& cover);

/// An upper bound on how far any leaf stands out of the shape, metres: how tight the cover is.
double bulge_of(const Cover& cover, const Shape& shape);

}  // namespace er

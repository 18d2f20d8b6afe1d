// How deep two things that may touch are in each other: meant contacts are to touch, and no more.
#pragma once

#include "elbowroom/collision/cell_query.hpp"
#include "elbowroom/pace/motion.hpp"

namespace er {

/// m that things which may touch may be in each other: what models and rounding leave.
inline constexpr double kDeepestContact = 5e-4;

/// m, the distance of two bodies while the arm of the question moves and others stand, at `samples`
/// + 1 even times of the motion: the least of them, below zero where they overlap; infinite for
/// bodies of which none moves. Names as of MeantContact.
double least_distance(const CellQuery& query, const MeantContact& pair, const Motion& motion,
                      int samples);

/// Such a distance as it counts where pieces may be off by `uncertainty` (m): what is not known of
/// a piece brings it nearer to what comes to grip it. A piece and what it stands on are where they
/// are together.
double counted_distance(double least, const Cell& cell, const MeantContact& pair,
                        double uncertainty);

}  // namespace er

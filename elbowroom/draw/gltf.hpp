// A cell with a moving arm as a glTF 2.0 file, for any viewer that reads them.
#pragma once

#include <filesystem>
#include <functional>
#include <vector>

#include "elbowroom/pace/motion.hpp"
#include "elbowroom/route/route.hpp"

namespace er {

struct TimedPosture {
  double time = 0.0;  ///< s, rising
  Posture posture = {};
};

/// Where a piece is at a time, in the world.
using PlaceOfPiece = std::function<Pose(const Body& piece, double time)>;

/// Everything of the cell that is there for looks, z up turned to the format's y up; other arms
/// stand in their stance `home`. Each link of the arm is a node of its own under its parent, by its
/// name; between two postures it moves as a straight joint line does. With the path of the first
/// tool. Pieces stand where the cell has them, or move as `places` says. Binary (.glb) or text
/// (.gltf) by the ending of `path`; the file is written whole or not at all. Throws InputError for
/// another ending, no posture, or times that do not rise.
void write_gltf(const std::filesystem::path& path, const Cell& cell, const Arm& arm,
                const std::vector<TimedPosture>& postures, const PlaceOfPiece& places = {});

/// A route has no times: a radian (or metre) of joint travel takes a second.
std::vector<TimedPosture> timed_postures(const Route& route);
/// At even times, `rate` a second, and at the end.
std::vector<TimedPosture> timed_postures(const Motion& motion, double rate = 50.0);

}  // namespace er

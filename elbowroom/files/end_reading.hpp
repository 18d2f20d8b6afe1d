// How files say where a way begins, ends, or goes through: stances, postures, targets.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "elbowroom/files/document.hpp"
#include "elbowroom/kinematics/target.hpp"
#include "elbowroom/model/cell.hpp"

namespace er {

/// A posture, or targets of which any will do.
struct ReadEnd {
  std::string name;
  Posture posture = {};
  std::vector<Target> targets = {};
};

enum class EndKinds {
  fixed,       ///< a stance or a posture
  one_target,  ///< or a target
  any_target,  ///< or any of several
};

/// The targets of the file that `targets:` names, beside the file at `path`; none without that key.
std::vector<Target> targets_named_in(const Node& root, const std::filesystem::path& path,
                                     const Cell& cell);

class EndReader {
 public:
  EndReader(const Arm& arm, std::vector<Target> targets);

  /// "home", or {stance: home}, {posture: [..]}, {target: upper_2}, {any_target: [..]}; one of
  /// them, beside keys of `others`.
  [[nodiscard]] ReadEnd read(const Node& node, EndKinds kinds,
                             const std::vector<std::string>& others = {}) const;

 private:
  [[nodiscard]] ReadEnd stance(const Node& node) const;
  [[nodiscard]] ReadEnd value_of(const Node::Entry& entry) const;
  [[nodiscard]] const Target& target(const Node& node) const;

  const Arm& arm_;
  std::vector<Target> targets_;
  std::vector<std::string> names_;
};

}  // namespace er

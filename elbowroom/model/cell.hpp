// A cell: everything that exists. Arms, fixtures, pieces, frames, and which contacts are meant.
#pragma once

#include <memory>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "elbowroom/model/arm.hpp"

namespace er {

/// Something that does not move by itself: a fixture stays, a piece can be carried.
struct Body {
  std::string name = {};
  Pose at = {};  ///< in the world
  std::vector<Part> parts = {};
  double mass = 0.0;  ///< kg; 0 is "not stated"
};

struct Frame {
  std::string name = {};
  Pose at = {};  ///< in the world
};

/// Two things that may touch: a pair that is never checked. Each is "arm.link" or the name of a
/// fixture or piece.
struct MeantContact {
  std::string first = {};
  std::string second = {};
};

struct CellDescription {
  std::string name = {};
  std::vector<Arm> arms = {};
  std::vector<Body> fixtures = {};
  std::vector<Body> pieces = {};
  std::vector<Frame> frames = {};
  std::vector<MeantContact> contacts = {};
};

/// Immutable, cheap to copy, safe to share between threads. A changed cell is a new cell.
class Cell {
 public:
  /// Checks names and shapes. Throws InputError about the key at fault.
  static Cell build(CellDescription description);

  [[nodiscard]] const std::string& name() const { return data_->name; }
  [[nodiscard]] const std::vector<Arm>& arms() const { return data_->arms; }
  [[nodiscard]] const std::vector<Body>& fixtures() const { return data_->fixtures; }
  [[nodiscard]] const std::vector<Body>& pieces() const { return data_->pieces; }
  [[nodiscard]] const std::vector<Frame>& frames() const { return data_->frames; }
  [[nodiscard]] const std::vector<MeantContact>& contacts() const { return data_->contacts; }

  /// An empty name is the only arm; with several arms it must be given. Throws InputError.
  [[nodiscard]] const Arm& arm(std::string_view name) const;
  /// "teasel.home", or "home" where there is one arm.
  [[nodiscard]] const Posture& stance(std::string_view name) const;
  [[nodiscard]] const Limits& limits(std::string_view arm) const { return this->arm(arm).limits(); }
  /// The pose of a named frame in the world; "world" and "" are the world itself.
  [[nodiscard]] Pose frame(std::string_view name) const;

  /// True when the two names are listed as a meant contact, in either order.
  [[nodiscard]] bool contact_is_meant(std::string_view first, std::string_view second) const;

  /// The same cell with one fixture or piece somewhere else.
  [[nodiscard]] Cell with_body_at(std::string_view body, const Pose& at) const;
  /// The same cell with an arm replaced by one of the same name.
  [[nodiscard]] Cell with_arm(const Arm& arm) const;

 private:
  explicit Cell(std::shared_ptr<const CellDescription> data) : data_(std::move(data)) {}
  std::shared_ptr<const CellDescription> data_;
};

/// The name of a link as contacts and messages give it: "teasel.forearm".
std::string link_name(const Arm& arm, int link);

}  // namespace er

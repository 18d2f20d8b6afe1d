// A cell: everything that exists. Arms, fixtures, pieces, frames, and which contacts are meant.
#pragma once

#include <cmath>
#include <limits>
#include <memory>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "elbowroom/base/band.hpp"
#include "elbowroom/model/arm.hpp"

namespace er {

/// A way to hold a piece.
struct Grasp {
  std::string name = {};
  Pose tip = {};   ///< where the tool's tip is then, in the piece's frame
  Band turn = {};  ///< rad that the tip may be turned from there about the piece's z
};

/// Something that does not move by itself: a fixture stays, a piece can be carried.
struct Body {
  std::string name = {};
  Pose at = {};  ///< in the world
  std::vector<Part> parts = {};
  double mass = 0.0;               ///< kg; 0 is "not stated"
  std::vector<Grasp> grasps = {};  ///< of a piece
  Place place = {};                ///< where it is described, if in a file
};

/// A volume that is no geometry. No part of an arm, nor what it holds, may come nearer to it than
/// `distance`; or, in a zone with a speed, none that is nearer may move faster. Pictures show its
/// edges.
struct Zone {
  std::string name = {};
  Pose at = {};  ///< in the world
  std::vector<Part> parts = {};
  double distance = 0.0;  ///< m; 0 is the volume itself
  /// m/s: a cap on the speed of every point of the arm in the zone; infinite keeps out of it
  double speed = std::numeric_limits<double>::infinity();
  Place place = {};  ///< where it is described, if in a file

  [[nodiscard]] bool caps_speed() const { return std::isfinite(speed); }
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
  bool operator==(const MeantContact&) const = default;
};

/// A piece that an arm holds, as it was; in the cell it is a link of that arm.
struct HeldPiece {
  Body piece = {};
  std::string arm = {};
};

struct CellDescription {
  std::string name = {};
  std::vector<Arm> arms = {};
  std::vector<Body> fixtures = {};
  std::vector<Body> pieces = {};
  std::vector<Frame> frames = {};
  std::vector<MeantContact> contacts = {};
  std::vector<Zone> zones = {};
  std::vector<HeldPiece> held = {};  ///< filled in by Cell::with_held
  std::vector<Note> notes = {};      ///< what the reader of a file noticed
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

  [[nodiscard]] const std::vector<Zone>& zones() const { return data_->zones; }
  [[nodiscard]] const std::vector<Note>& notes() const { return data_->notes; }
  [[nodiscard]] const CellDescription& description() const { return *data_; }

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
  /// The same cell with more contacts that are meant. Throws InputError for an unknown name.
  [[nodiscard]] Cell with_contacts(const std::vector<MeantContact>& contacts) const;
  /// The same, leaving out those that name something that is not there.
  [[nodiscard]] Cell with_known_contacts(const std::vector<MeantContact>& contacts) const;
  /// The same cell with an arm replaced by one of the same name.
  [[nodiscard]] Cell with_arm(const Arm& arm) const;
  /// The same cell without an arm, and without the contacts that name it.
  [[nodiscard]] Cell without_arm(std::string_view arm) const;
  /// The same cell with a piece held by an arm: it is a link of the arm from now on, under its own
  /// name, fixed where the grasp says, and no piece any more. It is checked against every link but
  /// those it is fixed to and the fingers on them; what the piece may touch it may touch still. An
  /// empty tool is the arm's first.
  [[nodiscard]] Cell with_held(std::string_view piece, std::string_view arm, std::string_view tool,
                               const Pose& tip_in_piece) const;
  /// The same with a grasp of the piece by its name; an empty name is its first.
  [[nodiscard]] Cell with_held(std::string_view piece, std::string_view arm, std::string_view tool,
                               std::string_view grasp) const;
  /// The other way: what an arm holds becomes a piece again, standing at `at`.
  [[nodiscard]] Cell with_released(std::string_view piece, const Pose& at) const;

 private:
  explicit Cell(std::shared_ptr<const CellDescription> data) : data_(std::move(data)) {}
  std::shared_ptr<const CellDescription> data_;
};

/// The name of a link as contacts and messages give it: "teasel.forearm".
std::string link_name(const Arm& arm, int link);

}  // namespace er

// Asking a cell about one posture of one arm: is it free, and what is nearest?
#pragma once

#include <limits>
#include <memory>
#include <mutex>
#include <span>
#include <string>
#include <vector>

#include "elbowroom/collision/checked_pairs.hpp"
#include "elbowroom/collision/covers.hpp"
#include "elbowroom/collision/distance.hpp"
#include "elbowroom/kinematics/forward.hpp"

namespace er {

/// The two things that are nearest to each other, and where.
struct Nearest {
  /// Metres; below zero is how deep they overlap; infinite when there is nothing to meet.
  double distance = std::numeric_limits<double>::infinity();
  int first = -1;  ///< bodies; CellQuery::name() gives their names
  int second = -1;
  Vector3 point_first = Vector3::Zero();
  Vector3 point_second = Vector3::Zero();

  /// `margin`: of a zone, whose distances count from so far outside it.
  static Nearest of(const Separation& found, int first, int second, double margin = 0.0) {
    return {found.distance - margin, first, second, found.point_a, found.point_b};
  }
};

class CellQuery;

/// The world poses of an arm's checked parts at one posture: working memory for queries and sweeps.
class PartPoses {
 public:
  explicit PartPoses(const CellQuery& query);
  /// Allocates nothing.
  void place_at(const CellQuery& query, const PostureRef& posture);
  [[nodiscard]] const Pose& pose(int part) const { return parts_[static_cast<std::size_t>(part)]; }
  [[nodiscard]] const Pose& link(int link) const { return links_[static_cast<std::size_t>(link)]; }
  [[nodiscard]] const AlignedBox& box(int part) const {
    return boxes_[static_cast<std::size_t>(part)];
  }

 private:
  std::vector<Pose> links_;
  std::vector<Pose> parts_;
  std::vector<AlignedBox> boxes_;
};

/// What an arm is measured against.
struct Against {
  bool itself = true;        ///< its own links, and what it holds
  bool surroundings = true;  ///< fixtures, pieces, zones and other arms
};

/// Throws InputError unless a clearance to keep (m) is zero or more, and finite.
void check_clearance(double clearance);

/// Immutable and cheap to copy; safe to share between threads.
class CellQuery {
 public:
  /// Throws InputError for an unknown arm name.
  CellQuery(Cell cell, std::string_view arm, const std::vector<OtherArm>& others = {});

  /// The same question where more contacts are meant; bodies keep their numbers.
  [[nodiscard]] CellQuery with_contacts(const std::vector<MeantContact>& contacts) const;
  /// The same question in another cell, which has the same arm (or one that holds something).
  [[nodiscard]] CellQuery with_cell(const Cell& cell) const;
  /// The same question of an arm that was changed; its name is the same.
  [[nodiscard]] CellQuery with_arm(const Arm& arm) const;
  /// The same question of this arm or another one in another cell, where the other arms stand so.
  [[nodiscard]] CellQuery with_others(const Cell& cell, std::string_view arm,
                                      const std::vector<OtherArm>& others) const;
  /// Of arms that were made one (arms_as_one): how they stand to each other, and to the pieces.
  /// What each of them is to itself, to fixtures and to zones is left out.
  [[nodiscard]] static CellQuery between_arms(Cell cell, std::string_view arm);

  [[nodiscard]] const Cell& cell() const { return data_->cell; }
  [[nodiscard]] const Arm& arm() const { return data_->arm; }
  [[nodiscard]] const CheckedPairs& pairs() const { return data_->pairs; }
  /// The arm's covers and the map of what stands; made when first asked for.
  [[nodiscard]] const Covers& covers() const;
  /// What stands nearest to those parts that no joint moves.
  [[nodiscard]] const Nearest& nearest_to_fixed() const;
  [[nodiscard]] const std::string& name(int body) const {
    return data_->pairs.bodies[static_cast<std::size_t>(body)];
  }

  /// True when every checked pair is further apart than `clearance` (m, >= 0).
  [[nodiscard]] bool is_free(const PostureRef& posture, double clearance = 0.0) const;
  /// The nearest checked pair.
  [[nodiscard]] Nearest nearest(const PostureRef& posture) const;

  /// The same two in the caller's memory: they allocate nothing. `parts` is left at `posture`.
  bool is_free(const PostureRef& posture, double clearance, PartPoses& parts) const;
  /// Of one moving part against what stands, and of one self pair, where `parts` are placed.
  [[nodiscard]] bool part_is_free(std::size_t part, double clearance, const PartPoses& parts) const;
  [[nodiscard]] bool pair_is_free(const SelfPair& pair, double clearance,
                                  const PartPoses& parts) const;
  Nearest nearest(const PostureRef& posture, PartPoses& parts, Against against = {}) const;
  /// What comes nearest to each link of the arm, in link order; `out` has one for each. Links that
  /// nothing is checked against keep first = -1. Allocates nothing.
  void nearest_of_links(const PostureRef& posture, PartPoses& parts, std::span<Nearest> out,
                        Against against = {}) const;

  /// "teasel.forearm and kiln_post_2, 14.0 mm deep" or "..., 23.1 mm apart".
  [[nodiscard]] std::string describe(const Nearest& nearest) const;
  /// The same with ", where 5.0 mm of clearance is asked for", if anything is.
  [[nodiscard]] std::string describe(const Nearest& nearest, double clearance) const;
  /// What forbids standing there: a joint out of its range, or something nearer than the clearance;
  /// or "".
  [[nodiscard]] std::string fault_of(const PostureRef& posture, double clearance) const;

 private:
  struct Data {
    Cell cell;
    Arm arm;
    CheckedPairs pairs;
    std::vector<OtherArm> others;
    std::shared_ptr<MapShelf> shelf;
    // Only whoever moves the arm needs these, and they take longer than a question or two.
    struct ForMoves {
      Covers covers;
      Nearest to_fixed;
    };
    mutable std::once_flag made = {};
    mutable std::unique_ptr<const ForMoves> for_moves = {};
  };
  CellQuery(Cell cell, std::string_view arm, const std::vector<OtherArm>& others,
            std::shared_ptr<MapShelf> shelf);
  const Data::ForMoves& for_moves() const;
  template <class Reach, class Consider>
  void look(const PostureRef& posture, PartPoses& parts, Against against, Reach reach,
            Consider consider) const;
  std::shared_ptr<const Data> data_;
};

}  // namespace er

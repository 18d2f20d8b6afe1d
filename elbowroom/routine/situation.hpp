// Where the pieces are, and what the arm holds, at some moment of a routine.
#pragma once

#include <map>
#include <memory>
#include <string>
#include <vector>

#include "elbowroom/collision/cell_query.hpp"
#include "elbowroom/routine/hold.hpp"

namespace er {

/// All situations that a routine may come to, each once, and the questions asked of them. A
/// situation is named by its number; 0 is the first.
class Situations {
 public:
  /// `query` asks of the cell as the arm finds it; it may hold something already.
  explicit Situations(const CellQuery& query);

  /// After the arm has taken a piece. Throws InputError as Cell::with_held does.
  int after_grip(int before, const Hold& hold);
  /// After it has let go of one, which stands at `at` then.
  int after_release(int before, const std::string& piece, const Pose& at);

  /// The question of a situation, in which some more contacts are meant. It stays for the next few
  /// dozen questions.
  const CellQuery& query(int situation, const std::vector<MeantContact>& meant = {});
  [[nodiscard]] const Cell& cell(int situation) const { return at(situation).cell; }
  /// What was made for answering them is given back, but for the first.
  void forget_questions();
  /// Null when the piece is not held.
  [[nodiscard]] const Hold* hold_of(int situation, const std::string& piece) const;
  /// Where a piece stands; null while it is held.
  [[nodiscard]] const Body* piece(int situation, const std::string& name) const;
  /// Pieces that somebody holds go by their names as links.
  [[nodiscard]] std::vector<MeantContact> as_held(int situation,
                                                  std::vector<MeantContact> pairs) const;
  /// Where a held piece is, for a posture.
  [[nodiscard]] Pose held_at(const Hold& hold, const Posture& posture) const;

 private:
  struct Situation {
    Cell cell;
    std::vector<Hold> holds;
    std::map<std::string, Pose> moved;  // pieces that were put somewhere
  };
  int known(Situation situation);
  [[nodiscard]] const Situation& at(int situation) const {
    return all_[static_cast<std::size_t>(situation)];
  }

  CellQuery first_;
  std::vector<Situation> all_;
  struct Asked {
    int situation;
    std::vector<MeantContact> meant;
    std::unique_ptr<CellQuery> query;
  };
  std::vector<Asked> asked_;
};

/// What a piece touches, standing at `at`: fixtures and other pieces nearer than a millimetre.
std::vector<std::string> touched(const Cell& cell, const std::vector<Part>& parts,
                                 const std::string& piece, const Pose& at);

/// The links that grip what a tool holds: its own, and those that hang on that.
std::vector<std::string> gripping_links(const Arm& arm, const std::string& tool);

}  // namespace er

// The cheapest way through layers of states, where it is dear to look at a move.
//
// What each move costs at least is known from the beginning; what it costs in truth, or that it
// cannot be done, takes planning. So the way that is cheapest by what is known is looked at, one
// move after the other, until all of it is known: after C. Dellin and S. Srinivasa, "A unifying
// formalism for shortest path problems with expensive edge evaluations via lazy best-first search
// over paths with edge selectors", 2016.
#pragma once

#include <functional>
#include <optional>
#include <vector>

namespace er {

/// From a state of one layer to one of the next.
struct LayerMove {
  int from = 0;
  int to = 0;
  double least = 0.0;  ///< what it costs at least, zero or more
  int effort = 0;      ///< moves of less effort are looked at before others
};

struct WaySearchOptions {
  /// A way that is known whole is taken when no other is expected to be cheaper by more than this
  /// share.
  double worthwhile = 0.05;
  /// Moves looked at after a whole way is known, at most.
  int most_looks_after = 100;
};

class WaySearch {
 public:
  /// What a look at a move found.
  struct Found {
    double cost = 0.0;
    bool is_all = true;  ///< false: a first look, which only says that it does not cost the least
  };
  /// Nothing when the move cannot be done. Asked once of each, or twice after a first look.
  using Look = std::function<std::optional<Found>(int layer, int move)>;

  /// `states`: how many each layer has; the first has one. `moves[i]` lead from layer i to i + 1.
  WaySearch(std::vector<int> states, std::vector<std::vector<LayerMove>> moves);

  struct Way {
    std::vector<int> moves;  ///< one of each layer
    double cost = 0.0;
    int end = 0;              ///< the state of the last layer
    bool is_cheapest = true;  ///< by what is expected, to within `worthwhile`; false: looks ran out
  };
  /// The cheapest way that can be done; nothing when there is none.
  std::optional<Way> find(const Look& look, const WaySearchOptions& options = {});
  /// Nothing is known of a move any more.
  void forget(int layer, int move);
  /// No way may end there any more.
  void forbid_end(int state);

  [[nodiscard]] int looks() const { return looks_; }
  /// States of a layer that can be got to by moves not known to fail.
  [[nodiscard]] std::vector<bool> within_reach(int layer) const;

 private:
  // Of a move: nothing, that it costs more than its least, its cost, or that it cannot be done.
  enum class Known { nothing, costs_more, can_be_done, cannot };
  struct Move {
    LayerMove given;
    double cost = 0.0;  // at least, or in truth
    Known known = Known::nothing;
  };
  [[nodiscard]] double expected(std::size_t layer, const Move& move) const;
  [[nodiscard]] std::optional<Way> cheapest(bool only_known) const;

  std::vector<int> states_;
  std::vector<std::vector<Move>> moves_;
  // Of each layer: what the best looked at came to, of moves seen at once and of those that cost
  // more than their least.
  std::vector<double> times_least_;
  std::vector<double> times_least_of_more_;
  std::vector<bool> may_end_;
  int looks_ = 0;
};

}  // namespace er

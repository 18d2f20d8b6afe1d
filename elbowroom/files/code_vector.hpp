// Vectors and frames in code that is being written: what is known already is worked out, what is
// zero is left out, and what only changes its name or sign costs nothing.
#pragma once

#include <array>
#include <map>
#include <string>
#include <vector>

#include "elbowroom/base/pose.hpp"

namespace er {

/// A double as C++ reads it back, bit for bit.
std::string code_literal(double value);

/// A vector of four numbers: known while writing, or a variable of the code, or its negative.
struct CodeVector {
  std::array<double, 4> known = {};
  std::string variable = {};  ///< empty: known
  bool negative = false;

  [[nodiscard]] bool is_known() const { return variable.empty(); }
  /// As an argument: "v3", "-v3" or "Four{0.0, 0.0, 1.0, 0.0}".
  [[nodiscard]] std::string text() const;
};

/// A number times a scalar of the code (empty: none) times a vector.
struct CodeTerm {
  double number = 1.0;
  std::string scalar = {};
  CodeVector vector = {};
};

/// The statements of a function, in the order they are written.
class CodeLines {
 public:
  void add(const std::string& statement) { text_ += "  " + statement + "\n"; }
  /// The sum of some terms, in a variable of its own where that takes any work and has not been
  /// worked out before.
  CodeVector sum(const std::vector<CodeTerm>& terms);
  CodeVector cross(const CodeVector& a, const CodeVector& b);
  [[nodiscard]] const std::string& text() const { return text_; }

 private:
  std::string new_variable();

  std::string text_;
  std::map<std::string, std::string> sums_;  // variables by what they hold
  int variables_ = 0;
};

/// A frame in the world: its axes, with a 0 behind them, and its origin, with a 1.
struct CodeFrame {
  std::array<CodeVector, 3> axis;
  CodeVector position;

  static CodeFrame of(const Pose& pose);
  /// Numbers within rounding (1e-15) of 0, 1 and -1 are taken to be these.
  [[nodiscard]] CodeFrame moved_by(const Pose& pose, CodeLines& lines) const;
  /// Turned about `about` (unit, in this frame); the angle's cosine and sine are scalars of the
  /// code.
  [[nodiscard]] CodeFrame turned(const Vector3& about, const std::string& cosine,
                                 const std::string& sine, CodeLines& lines) const;
  [[nodiscard]] CodeFrame slid(const Vector3& along, const std::string& by, CodeLines& lines) const;
  /// A direction of this frame, in the world.
  [[nodiscard]] CodeVector direction(const Vector3& in_frame, CodeLines& lines) const;
};

}  // namespace er

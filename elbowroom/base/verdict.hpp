// The outcome of anything that can fail: yes with the result, or no with a reason and remedies.
#pragma once

#include <fmt/format.h>

#include <stdexcept>
#include <string>
#include <string_view>
#include <tl/expected.hpp>
#include <utility>
#include <vector>

#include "elbowroom/base/posture.hpp"

namespace er {

/// The kinds of "no". JSON output carries the name, so that a program can act on it.
enum class Cause {
  out_of_reach,   ///< too far, or too near
  orientation,    ///< the position can be met, not with this orientation
  at_odds,        ///< requirements of the target cannot hold together
  beyond_limits,  ///< only postures outside the joint limits do it
  in_collision,   ///< every posture that does it touches something
  view_blocked,   ///< something stands before what is to be seen, in every posture
  start_blocked,  ///< the start posture touches something or is out of its limits
  goal_blocked,   ///< the same for every goal posture
  no_route,       ///< the search ended without a way through
  off_line,       ///< a straight tool move cannot be followed the whole way
  too_fast,       ///< a velocity, acceleration or jerk limit would be broken
  too_heavy,      ///< a motor would have to give more than it can, however slowly it went
  not_sayable,    ///< one form of description cannot hold what another one says
  step_refused,   ///< one step of a routine is a no, and so the whole is
  not_proved,     ///< evidence that was given does not hold
  stopped,        ///< whoever asked did not wait for the answer
};

std::string_view name_of(Cause cause);

/// One figure behind a reason, in SI units, for programs: {"short_by", 0.083, "m"}.
struct Figure {
  std::string name;
  double value = 0.0;
  std::string unit;
};

/// A change that was tried and turns the answer into a yes.
struct Remedy {
  std::string text;
};

/// Why the answer is no. `text` is one sentence naming joint, link, obstacle and amount.
struct Reason {
  Cause cause = Cause::no_route;
  std::string text;
  std::vector<Figure> figures = {};
  std::vector<Remedy> remedies = {};
  std::vector<std::string> details = {};  ///< what the sentence sums up, one line each
  std::vector<Posture> postures = {};  ///< what came nearest to a yes, best first; to be looked at

  /// The sentence without the "no: " before it, to be a part of another one.
  [[nodiscard]] std::string bare() const {
    return text.rfind("no: ", 0) == 0 ? text.substr(4) : text;
  }
};

/// Thrown when the value of a "no" is taken anyway.
class Refused : public std::runtime_error {
 public:
  explicit Refused(Reason reason) : std::runtime_error(reason.text), reason_(std::move(reason)) {}
  [[nodiscard]] const Reason& reason() const { return reason_; }

 private:
  Reason reason_;
};

/// Yes with a T, or no with a Reason. Test it before use; value() of a no throws Refused.
template <class T>
class [[nodiscard]] Verdict {
 public:
  Verdict(T value) : held_(std::move(value)) {}                              // NOLINT: implicit
  Verdict(Reason reason) : held_(tl::make_unexpected(std::move(reason))) {}  // NOLINT: implicit

  explicit operator bool() const { return held_.has_value(); }
  const T& value() const& { return checked(), *held_; }
  T&& value() && { return checked(), std::move(*held_); }
  const T* operator->() const { return checked(), &*held_; }
  const T& operator*() const& { return value(); }
  [[nodiscard]] const Reason& reason() const { return held_.error(); }

 private:
  void checked() const {
    if (!held_) throw Refused(held_.error());
  }
  tl::expected<T, Reason> held_;
};

}  // namespace er

/// Prints the sentence, then each detail and each remedy on a line of its own.
template <>
struct fmt::formatter<er::Reason> : fmt::formatter<std::string_view> {
  fmt::format_context::iterator format(const er::Reason& reason,
                                       fmt::format_context& context) const;
};

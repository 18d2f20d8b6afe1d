#include "elbowroom/base/expression.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <charconv>
#include <cmath>
#include <numbers>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/text.hpp"

namespace er {
namespace {

constexpr int kDeepest = 64;    // brackets within brackets
constexpr int kHighest = 1000;  // power of a dimension; far beyond sense, far below overflow

const std::vector<std::string> kFunctions{"sin",   "cos",  "tan", "asin", "acos", "atan",
                                          "atan2", "sqrt", "abs", "min",  "max"};

bool is_letter(char c) { return std::isalpha(static_cast<unsigned char>(c)) != 0 || c == '_'; }
bool is_digit(char c) { return std::isdigit(static_cast<unsigned char>(c)) != 0; }

bool is_plain(const Quantity& q) { return q.dimension == dimension::number; }

// Refuses powers that no sense can be made of, long before they overflow.
Dimension checked(Dimension d) {
  for (const int e : {d.length, d.angle, d.time, d.mass})
    if (std::abs(e) > kHighest) throw InputError("a power of a unit is far too high");
  return d;
}

// Recursive descent over one text. `sum`, `term`, `power` and `atom` are the levels of precedence.
class Parser {
 public:
  Parser(std::string_view text, const NamedValues& names) : text_(text), names_(names) {}

  Quantity whole() {
    const Quantity value = sum();
    refuse_rest();
    if (!std::isfinite(value.si))
      throw InputError(fmt::format("'{}' is a number too large or too small to hold", text_));
    return value;
  }

  UnitScale whole_unit() {
    skip_blanks();
    const UnitScale found = unit();
    refuse_rest();
    return found;
  }

 private:
  void refuse_rest() {
    if (!at_end()) fail(fmt::format("'{}' is not expected here", text_.substr(at_)));
  }

  [[noreturn]] void fail(const std::string& what, const std::string& advice = {}) const {
    throw InputError(fmt::format("{} (character {} of '{}')", what, at_ + 1, text_), advice);
  }

  void skip_blanks() {
    while (at_ < text_.size() && std::isspace(static_cast<unsigned char>(text_[at_])) != 0) ++at_;
  }
  bool at_end() {
    skip_blanks();
    return at_ >= text_.size();
  }
  bool take(char c) {
    if (at_end() || text_[at_] != c) return false;
    ++at_;
    return true;
  }
  std::string_view take_word() {
    const std::size_t start = at_;
    while (at_ < text_.size() && (is_letter(text_[at_]) || is_digit(text_[at_]))) ++at_;
    return text_.substr(start, at_ - start);
  }

  static void need_same(const Quantity& a, const Quantity& b, std::string_view doing) {
    if (a.dimension == b.dimension) return;
    throw InputError(
        fmt::format("cannot {} {} and {}", doing, describe(a.dimension), describe(b.dimension)),
        is_plain(a) || is_plain(b) ? "add the unit to the plain number" : "");
  }

  // Zero is zero in any unit.
  static void let_zero_join(Quantity& a, Quantity& b) {
    if (is_plain(a) && a.si == 0.0) a.dimension = b.dimension;
    if (is_plain(b) && b.si == 0.0) b.dimension = a.dimension;
  }

  Quantity sum() {
    if (++depth_ > kDeepest) fail("brackets go too deep");
    Quantity value = term();
    while (!at_end() && (text_[at_] == '+' || text_[at_] == '-')) {
      const double sign = text_[at_++] == '+' ? 1.0 : -1.0;
      Quantity next = term();
      let_zero_join(value, next);
      need_same(value, next, sign > 0 ? "add" : "subtract");
      value.si += sign * next.si;
    }
    --depth_;
    return value;
  }

  Quantity term() {
    Quantity left = power();
    take_unit(left);
    while (!at_end() && (text_[at_] == '*' || text_[at_] == '/')) {
      const int sign = text_[at_++] == '*' ? 1 : -1;
      Quantity right = power();
      if (!is_plain(left)) take_unit(right);
      if (sign < 0 && right.si == 0.0) fail("this divides by zero");
      left.si = sign > 0 ? left.si * right.si : left.si / right.si;
      left.dimension = checked(times(left.dimension, right.dimension, sign));
      take_unit(left);
    }
    return left;
  }

  // A unit right after a value; after a plain product it makes the whole of it a quantity.
  void take_unit(Quantity& value) {
    if (at_end() || !is_letter(text_[at_])) return;
    if (!is_plain(value))
      fail(fmt::format("a second unit: what stands before is {} already",
                       describe(value.dimension)));
    value = scaled(value.si, unit());
  }

  // "deg/s^2" or "N m": factors with '/', '*' or a blank between, for as long as units follow; all
  // after the first '/' divide.
  UnitScale unit() {
    UnitScale whole;
    int sign = 1;
    while (true) {
      const std::string name(take_word());
      const UnitScale one = unit_named(name);
      const int power = sign * unit_power(name);
      whole.factor *= std::pow(one.factor, power);
      whole.dimension = checked(times(whole.dimension, one.dimension, power));
      const std::size_t before = at_;
      if (take('/')) {
        sign = -1;
      } else {
        take('*');
      }
      if (!unit_follows()) {
        at_ = before;
        return whole;
      }
    }
  }

  int unit_power(const std::string& name) {
    if (!take('^')) return 1;
    skip_blanks();
    const std::string_view digits = take_word();
    if (digits.size() != 1 || digits[0] < '1' || digits[0] > '9')
      throw InputError(
          fmt::format("'{}' is not a power from 1 to 9 in unit '{}^{}'", digits, name, digits));
    return digits[0] - '0';
  }

  // True where the name of a unit stands next, and not a function's: "min" is both.
  bool unit_follows() {
    if (at_end()) return false;
    const std::size_t start = at_;
    const bool follows = is_unit(take_word()) && (at_end() || text_[at_] != '(');
    at_ = start;
    return follows;
  }

  Quantity power() {
    if (++depth_ > kDeepest) fail("brackets or signs go too deep");
    Quantity value;
    if (take('-')) {
      value = power();
      value.si = -value.si;
    } else if (take('+')) {
      value = power();
    } else {
      value = atom();
      if (take('^')) raise(value);
    }
    --depth_;
    return value;
  }

  void raise(Quantity& base) {
    const bool negative = take('-');
    skip_blanks();
    int exponent = 0;
    const auto [end, error] =
        std::from_chars(text_.data() + at_, text_.data() + text_.size(), exponent);
    if (error != std::errc{} || exponent > 99) fail("a power must be a whole number from 0 to 99");
    at_ = static_cast<std::size_t>(end - text_.data());
    if (negative) exponent = -exponent;
    if (negative && base.si == 0.0) fail("this divides by zero");
    base.si = std::pow(base.si, exponent);
    base.dimension = checked(times(dimension::number, base.dimension, exponent));
  }

  Quantity atom() {
    if (at_end())
      throw InputError(text_.empty() ? "expected a number with a unit, found ''"
                                     : fmt::format("'{}' ends too early", text_),
                       "write it like 350 mm, 90 deg or 120 deg/s");
    const char c = text_[at_];
    if (is_digit(c) || c == '.') return number();
    if (take('(')) {
      const Quantity value = sum();
      if (!take(')')) fail("a closing bracket is missing");
      return value;
    }
    if (is_letter(c)) return named();
    fail(fmt::format("expected a number with a unit, found '{}'", text_.substr(at_)),
         "write it like 350 mm, 90 deg or 120 deg/s");
  }

  Quantity number() {
    double value = 0.0;
    const auto [end, error] =
        std::from_chars(text_.data() + at_, text_.data() + text_.size(), value);
    if (error == std::errc::result_out_of_range)
      throw InputError(fmt::format("'{}' is a number too large or too small to hold", text_));
    if (error != std::errc{}) fail("expected a number");
    at_ = static_cast<std::size_t>(end - text_.data());
    return {value, dimension::number};
  }

  Quantity named() {
    const std::size_t start = at_;
    const std::string word(take_word());
    if (take('(')) return call(word);
    if (word == "pi") return {std::numbers::pi, dimension::number};
    if (names_.find)
      if (const auto value = names_.find(word)) return *value;
    at_ = start;
    std::string lower = word;
    std::transform(lower.begin(), lower.end(), lower.begin(),
                   [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    if (lower == "nan" || lower == "inf" || lower == "infinity")
      throw InputError(fmt::format("'{}' is not a finite number", text_));
    if (is_unit(word)) fail(fmt::format("the unit '{}' has no number before it", word));
    std::vector<std::string> known = names_.all ? names_.all() : std::vector<std::string>{};
    if (known.empty())
      throw InputError(fmt::format("expected a number with a unit, found '{}'", text_),
                       "write it like 350 mm, 90 deg or 120 deg/s");
    throw unknown_name("value", word, known);
  }

  Quantity call(const std::string& function) {
    if (std::find(kFunctions.begin(), kFunctions.end(), function) == kFunctions.end())
      throw unknown_name("function", function, kFunctions);
    std::vector<Quantity> arguments;
    do {
      arguments.push_back(sum());
    } while (take(','));
    if (!take(')')) fail("a closing bracket is missing");
    return apply(function, arguments);
  }

  static Quantity apply(const std::string& f, std::vector<Quantity>& a) {
    const auto count = [&](std::size_t wanted) {
      if (a.size() != wanted)
        throw InputError(fmt::format("{} takes {} value{}, found {}", f, wanted,
                                     wanted == 1 ? "" : "s", a.size()));
    };
    const auto must_be = [&](Dimension wanted) {
      if (!(a[0].dimension == wanted))
        throw InputError(
            fmt::format("{} takes {}, found {}", f, describe(wanted), describe(a[0].dimension)),
            wanted == dimension::angle ? "add the unit: sin(30 deg)" : "");
    };
    if (f == "min" || f == "max") {
      if (a.empty()) throw InputError(f + " takes at least one value");
      for (std::size_t i = 1; i < a.size(); ++i) {
        let_zero_join(a[0], a[i]);
        need_same(a[0], a[i], f == "min" ? "take the least of" : "take the greatest of");
        a[0].si = f == "min" ? std::min(a[0].si, a[i].si) : std::max(a[0].si, a[i].si);
      }
      return a[0];
    }
    if (f == "atan2") {
      count(2);
      let_zero_join(a[0], a[1]);
      need_same(a[0], a[1], "take atan2 of");
      return {std::atan2(a[0].si, a[1].si), dimension::angle};
    }
    count(1);
    const double x = a[0].si;
    if (f == "abs") return {std::abs(x), a[0].dimension};
    if (f == "sqrt") return root(a[0]);
    if (f == "sin" || f == "cos" || f == "tan") {
      must_be(dimension::angle);
      return {f == "sin" ? std::sin(x) : f == "cos" ? std::cos(x) : std::tan(x), dimension::number};
    }
    must_be(dimension::number);
    if (f == "atan") return {std::atan(x), dimension::angle};
    if (x < -1.0 || x > 1.0)
      throw InputError(
          fmt::format("{}({:g}) does not exist: its argument goes from -1 to 1", f, x));
    return {f == "asin" ? std::asin(x) : std::acos(x), dimension::angle};
  }

  static Quantity root(const Quantity& q) {
    const Dimension d = q.dimension;
    if (q.si < 0.0) throw InputError(fmt::format("the root of {:g} does not exist", q.si));
    if (d.length % 2 != 0 || d.angle % 2 != 0 || d.time % 2 != 0 || d.mass % 2 != 0)
      throw InputError(fmt::format("the root of {} means nothing", describe(d)));
    return {std::sqrt(q.si), {d.length / 2, d.angle / 2, d.time / 2, d.mass / 2}};
  }

  std::string_view text_;
  const NamedValues& names_;
  std::size_t at_ = 0;
  int depth_ = 0;
};

}  // namespace

Quantity evaluate(std::string_view text, const NamedValues& names) {
  return Parser(trimmed(text), names).whole();
}

Quantity in_unit(double value, std::string_view unit) {
  const NamedValues no_names;
  return scaled(value, Parser(trimmed(unit), no_names).whole_unit());
}

double metres_in(std::string_view unit) {
  const Quantity one = in_unit(1.0, unit);
  if (!(one.dimension == dimension::length))
    throw InputError(fmt::format("'{}' is no unit of length", unit), "such as mm or m");
  return one.si;
}

double evaluate(std::string_view text, Dimension expected, const NamedValues& names) {
  const Quantity quantity = evaluate(text, names);
  if (quantity.dimension == expected) return quantity.si;
  // Zero is zero in any unit, but a bare 0 is the only number allowed to go without.
  if (is_plain(quantity) && quantity.si == 0.0) return 0.0;
  throw InputError(fmt::format("expected {}, found '{}', which is {}", describe(expected),
                               trimmed(text), describe(quantity.dimension)),
                   is_plain(quantity) ? "add the unit; only 0 may go without one" : "");
}

void check_value_name(const std::string& name) {
  const bool well_formed =
      !name.empty() && is_letter(name[0]) &&
      std::all_of(name.begin(), name.end(), [](char c) { return is_letter(c) || is_digit(c); });
  if (!well_formed)
    throw InputError(fmt::format("'{}' is no good as the name of a value", name),
                     "use a letter, then letters, digits and underscores");
  if (name == "pi" || is_unit(name) ||
      std::find(kFunctions.begin(), kFunctions.end(), name) != kFunctions.end())
    throw InputError(fmt::format("'{}' cannot name a value: it has a meaning already", name),
                     "choose another name, such as my_" + name);
}

}  // namespace er

#include "elbowroom/files/code_vector.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace er {
namespace {

double without_rounding(double v) {
  constexpr double kRounding = 1e-15;
  const double whole = std::round(v);
  return std::abs(v - whole) < kRounding && std::abs(whole) <= 1.0 ? whole + 0.0 : v;
}

// "0.5 * c * v", "c" or "0.5": what is one is left out.
std::string product_text(double number, const std::string& scalar, const std::string& vector) {
  std::string out;
  const auto append = [&](const std::string& factor) {
    out += (out.empty() ? "" : " * ") + factor;
  };
  if (number != 1.0 || (scalar.empty() && vector.empty())) append(code_literal(number));
  if (!scalar.empty()) append(scalar);
  if (!vector.empty()) append(vector);
  return out;
}

// A sum as it grows: what is subtracted is written so.
class SumText {
 public:
  void add(double number, const std::string& scalar, const std::string& vector) {
    if (number == 0.0) return;
    add(number < 0.0, product_text(std::abs(number), scalar, vector));
  }
  void add(bool negative, const std::string& text) {
    if (out_.empty())
      out_ = (negative ? "-" : "") + text;
    else
      out_ += (negative ? " - " : " + ") + text;
  }
  [[nodiscard]] bool empty() const { return out_.empty(); }
  [[nodiscard]] std::string text() const { return out_.empty() ? code_literal(0.0) : out_; }

 private:
  std::string out_;
};

std::string four_text(const std::array<std::string, 4>& numbers) {
  return fmt::format("Four{{{}}}", fmt::join(numbers, ", "));
}

// The terms of a sum whose vectors are known, number by number.
struct KnownPart {
  std::array<double, 4> number = {};
  std::array<SumText, 4> by_scalars;
  bool has_scalars = false;

  void add(const CodeTerm& term) {
    for (std::size_t i = 0; i < 4; ++i) {
      const double factor = term.number * term.vector.known[i];
      if (term.scalar.empty())
        number[i] += factor;
      else
        by_scalars[i].add(factor, term.scalar, {});
    }
    has_scalars |= !term.scalar.empty();
  }
  [[nodiscard]] bool is_zero() const {
    return !has_scalars &&
           std::all_of(number.begin(), number.end(), [](double n) { return n == 0; });
  }
  [[nodiscard]] std::string text() const {
    std::array<std::string, 4> out;
    for (std::size_t i = 0; i < 4; ++i) {
      SumText sum = by_scalars[i];
      sum.add(number[i], {}, {});
      out[i] = sum.text();
    }
    return four_text(out);
  }
};

}  // namespace

std::string code_literal(double value) {
  const std::string text = fmt::format("{}", value);
  return text.find_first_of(".e") == std::string::npos ? text + ".0" : text;
}

std::string CodeVector::text() const {
  if (!is_known()) return (negative ? "-" : "") + variable;
  std::array<std::string, 4> numbers;
  std::transform(known.begin(), known.end(), numbers.begin(), code_literal);
  return four_text(numbers);
}

std::string CodeLines::new_variable() { return fmt::format("v{}", variables_++); }

CodeVector CodeLines::sum(const std::vector<CodeTerm>& terms) {
  KnownPart known;
  SumText unknown;
  int unknown_terms = 0;
  CodeVector only;  // the unknown one, where it stands for itself
  bool is_itself = true;
  for (CodeTerm term : terms) {
    term.number = without_rounding(term.number);
    if (term.number == 0.0) continue;
    if (term.vector.is_known()) {
      known.add(term);
      continue;
    }
    const double signed_number = term.vector.negative ? -term.number : term.number;
    unknown.add(signed_number, term.scalar, term.vector.variable);
    ++unknown_terms;
    is_itself = term.scalar.empty() && std::abs(term.number) == 1.0;
    only = {.variable = term.vector.variable, .negative = signed_number < 0.0};
  }
  if (unknown_terms == 0 && !known.has_scalars) return {.known = known.number};
  if (unknown_terms == 1 && is_itself && known.is_zero()) return only;
  if (!known.is_zero()) unknown.add(false, known.text());
  const auto [worked_out, is_new] = sums_.try_emplace(unknown.text());
  if (is_new) {
    worked_out->second = new_variable();
    add(fmt::format("const Four {} = {};", worked_out->second, worked_out->first));
  }
  return {.variable = worked_out->second};
}

CodeVector CodeLines::cross(const CodeVector& a, const CodeVector& b) {
  const std::string variable = new_variable();
  add(fmt::format("Four {};", variable));
  add(fmt::format("lanes::cross({}, {}, {});", a.text(), b.text(), variable));
  return {.variable = variable};
}

CodeFrame CodeFrame::of(const Pose& pose) {
  CodeFrame out;
  const auto tidied = [](const Vector3& v, double last) {
    return CodeVector{
        .known = {without_rounding(v[0]), without_rounding(v[1]), without_rounding(v[2]), last}};
  };
  for (int i = 0; i < 3; ++i)
    out.axis[static_cast<std::size_t>(i)] = tidied(pose.rotation.col(i), 0.0);
  out.position = tidied(pose.position, 1.0);
  return out;
}

CodeVector CodeFrame::direction(const Vector3& in_frame, CodeLines& lines) const {
  return lines.sum({{.number = in_frame[0], .vector = axis[0]},
                    {.number = in_frame[1], .vector = axis[1]},
                    {.number = in_frame[2], .vector = axis[2]}});
}

CodeFrame CodeFrame::moved_by(const Pose& pose, CodeLines& lines) const {
  CodeFrame out;
  std::vector<CodeTerm> place{{.vector = position}};
  for (std::size_t i = 0; i < 3; ++i) {
    const auto k = static_cast<Eigen::Index>(i);
    out.axis[i] = direction(pose.rotation.col(k), lines);
    place.push_back({.number = pose.position[k], .vector = axis[i]});
  }
  out.position = lines.sum(place);
  return out;
}

CodeFrame CodeFrame::turned(const Vector3& about, const std::string& cosine,
                            const std::string& sine, CodeLines& lines) const {
  Eigen::Index k = 0;
  about.cwiseAbs().maxCoeff(&k);
  if (std::abs(without_rounding(about[k])) != 1.0) {
    // Not one of the frame's axes: made one, and back again.
    const Pose aligned{rotation_with_z(about), Vector3::Zero()};
    return moved_by(aligned, lines)
        .turned(Vector3::UnitZ(), cosine, sine, lines)
        .moved_by(aligned.inverse(), lines);
  }
  const double sense = about[k] > 0.0 ? 1.0 : -1.0;
  const auto i = static_cast<std::size_t>((k + 1) % 3);
  const auto j = static_cast<std::size_t>((k + 2) % 3);
  CodeFrame out = *this;
  out.axis[i] = lines.sum({{.scalar = cosine, .vector = axis[i]},
                           {.number = sense, .scalar = sine, .vector = axis[j]}});
  out.axis[j] = lines.sum({{.scalar = cosine, .vector = axis[j]},
                           {.number = -sense, .scalar = sine, .vector = axis[i]}});
  return out;
}

CodeFrame CodeFrame::slid(const Vector3& along, const std::string& by, CodeLines& lines) const {
  CodeFrame out = *this;
  std::vector<CodeTerm> place{{.vector = position}};
  for (std::size_t i = 0; i < 3; ++i)
    place.push_back(
        {.number = along[static_cast<Eigen::Index>(i)], .scalar = by, .vector = axis[i]});
  out.position = lines.sum(place);
  return out;
}

}  // namespace er

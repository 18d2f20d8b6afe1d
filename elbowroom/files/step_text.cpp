#include "elbowroom/files/step_text.hpp"

#include <fmt/format.h>

#include <cctype>
#include <cstdint>
#include <unordered_map>
#include <vector>

#include "elbowroom/base/input_error.hpp"

namespace er {
namespace {

bool is_digit(char c) { return std::isdigit(static_cast<unsigned char>(c)) != 0; }
bool is_blank(char c) { return std::isspace(static_cast<unsigned char>(c)) != 0; }

class StepText {
 public:
  StepText(std::string_view text, const std::string& name) : text_(text), name_(name) {}

  int check() {
    constexpr std::string_view kBegin = "ISO-10303-21;";
    constexpr std::string_view kEnd = "END-ISO-10303-21";
    skip_blanks();
    if (text_.substr(at_, kBegin.size()) != kBegin)
      throw InputError("this is no STEP file: it does not begin with ISO-10303-21;",
                       "export it again, or give it the ending of what it is", here());
    if (text_.find(kEnd) == text_.npos) {
      while (at_ < text_.size()) step();
      throw InputError("this STEP file is cut short: END-ISO-10303-21; is missing at its end",
                       "export or copy it again", here());
    }
    while (at_ < text_.size()) look();
    for (const Reference& one : references_)
      if (lines_.count(one.number) == 0)
        throw InputError(fmt::format("#{} is not in this file", one.number),
                         "it is broken: export it again", one.place);
    return solids_;
  }

 private:
  struct Reference {
    std::uint64_t number;
    Place place;
  };

  [[nodiscard]] Place here() const {
    return {name_, line_, static_cast<int>(at_ - line_begin_) + 1};
  }
  void step() {
    if (text_[at_++] != '\n') return;
    ++line_;
    line_begin_ = at_;
  }
  void skip_blanks() {
    while (at_ < text_.size() && is_blank(text_[at_])) step();
  }
  // Up to and with an ending.
  void skip_through(std::string_view ending, const char* what) {
    const Place begin = here();
    while (at_ < text_.size() && text_.substr(at_, ending.size()) != ending) step();
    if (at_ >= text_.size())
      throw InputError(fmt::format("{} that begins here has no end", what),
                       "it is broken: export it again", begin);
    for (std::size_t i = 0; i < ending.size(); ++i) step();
  }

  void look() {
    if (text_[at_] == '\'') {
      step();
      skip_through("'", "a text");  // two of them within a text are two texts, which does as well
    } else if (text_.substr(at_, 2) == "/*") {
      skip_through("*/", "a comment");
    } else if (text_[at_] == '#' && at_ + 1 < text_.size() && is_digit(text_[at_ + 1])) {
      take_number();
    } else {
      step();
    }
  }

  void take_number() {
    const Place place = here();
    std::uint64_t number = 0;
    for (step(); at_ < text_.size() && is_digit(text_[at_]); step())
      number = 10 * number + static_cast<std::uint64_t>(text_[at_] - '0');
    skip_blanks();
    if (at_ >= text_.size() || text_[at_] != '=') {
      references_.push_back({number, place});
      return;
    }
    const auto [first, is_new] = lines_.emplace(number, place.line);
    if (!is_new)
      throw InputError(fmt::format("#{} is given twice, first in line {}", number, first->second),
                       "it is broken: export it again", place);
    step();
    skip_blanks();
    const std::size_t begin = at_;
    while (at_ < text_.size() && (std::isupper(static_cast<unsigned char>(text_[at_])) != 0 ||
                                  is_digit(text_[at_]) || text_[at_] == '_'))
      step();
    const std::string_view type = text_.substr(begin, at_ - begin);
    for (const char* solid : {"MANIFOLD_SOLID_BREP", "BREP_WITH_VOIDS", "FACETED_BREP"})
      solids_ += type == solid ? 1 : 0;
  }

  std::string_view text_;
  const std::string& name_;
  std::size_t at_ = 0;
  int line_ = 1;
  std::size_t line_begin_ = 0;
  std::unordered_map<std::uint64_t, int> lines_;  // where each is given
  std::vector<Reference> references_;
  int solids_ = 0;
};

}  // namespace

int check_step_text(std::string_view text, const std::string& name) {
  return StepText(text, name).check();
}

}  // namespace er

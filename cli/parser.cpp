#include "parser.hpp"

#include <fmt/format.h>

#include <CLI/CLI.hpp>
#include <algorithm>
#include <charconv>
#include <type_traits>

#include "elbowroom/base/input_error.hpp"

namespace er::cli {
namespace {

// An option whose value is a number; its unit, if it is there, is taken off.
template <class Number>
void add_number(CLI::App& app, const std::string& name, Number& into, const std::string& help,
                const std::string& unit) {
  const auto only_number = [name, unit](const std::string& text) {
    std::string number = text;
    if (!unit.empty() && number.size() > unit.size() && number.ends_with(unit))
      number.resize(number.find_last_not_of(' ', number.size() - unit.size() - 1) + 1);
    Number value{};
    const char* end = number.data() + number.size();
    const auto read = std::from_chars(number.data(), end, value);
    if (read.ec == std::errc() && read.ptr == end) return number;
    const char* kind = std::is_unsigned_v<Number>   ? "a whole number from zero on"
                       : std::is_integral_v<Number> ? "a whole number"
                                                    : "a number";
    throw CLI::ValidationError(
        fmt::format("expected {}{}, found '{}'", kind,
                    unit.empty() ? "" : fmt::format(", with or without '{}'", unit), text));
  };
  app.add_option(name, into, help)->capture_default_str()->transform(only_number);
}

}  // namespace

VerbParser& VerbParser::text(const std::string& name, std::string& into, const std::string& help) {
  CLI::Option* option = app_->add_option(name, into, help);
  if (name.rfind("--", 0) != 0) option->required();
  if (!into.empty()) option->capture_default_str();
  return *this;
}

VerbParser& VerbParser::needed_text(const std::string& name, std::string& into,
                                    const std::string& help) {
  app_->add_option(name, into, help)->required();
  return *this;
}

VerbParser& VerbParser::texts(const std::string& name, std::vector<std::string>& into,
                              const std::string& help) {
  app_->add_option(name, into, help)
      ->expected(1)
      ->option_text("TEXT")
      ->multi_option_policy(CLI::MultiOptionPolicy::TakeAll);
  return *this;
}

VerbParser& VerbParser::more(const std::string& name, std::vector<std::string>& into,
                             const std::string& help) {
  app_->add_option(name, into, help)->expected(0, -1)->option_text("TEXT ...");
  return *this;
}

VerbParser& VerbParser::number(const std::string& name, int& into, const std::string& help) {
  add_number(*app_, name, into, help, {});
  return *this;
}

VerbParser& VerbParser::number(const std::string& name, double& into, const std::string& help,
                               const std::string& unit) {
  add_number(*app_, name, into, help, unit);
  return *this;
}

VerbParser& VerbParser::number(const std::string& name, std::uint64_t& into,
                               const std::string& help) {
  add_number(*app_, name, into, help, {});
  return *this;
}

VerbParser& VerbParser::flag(const std::string& name, bool& into, const std::string& help) {
  app_->add_flag(name, into, help);
  return *this;
}

VerbParser& VerbParser::goes_with(const std::string& option,
                                  const std::vector<std::string>& others) {
  std::vector<std::string>& needed = company_->needed[option];
  needed.insert(needed.end(), others.begin(), others.end());
  return *this;
}

VerbParser& VerbParser::not_beside(const std::string& option,
                                   const std::vector<std::string>& others) {
  std::vector<std::string>& refused = company_->refused[option];
  refused.insert(refused.end(), others.begin(), others.end());
  return *this;
}

void VerbParser::refuse(const std::vector<std::string>& options, const std::string& why,
                        const std::string& advice) const {
  for (const std::string& option : options)
    if (given(option)) throw InputError(option + " " + why, advice);
}

void VerbParser::check_company() const {
  const auto is_given = [&](const std::string& name) { return given(name); };
  for (const auto& [option, others] : company_->refused) {
    const auto other = std::find_if(others.begin(), others.end(), is_given);
    if (given(option) && other != others.end())
      throw InputError(fmt::format("{} and {} cannot go together", option, *other),
                       "leave one of the two out");
  }
  for (const auto& [option, others] : company_->needed)
    if (given(option) && std::none_of(others.begin(), others.end(), is_given))
      throw InputError(fmt::format("{} says nothing without {}{}", option,
                                   others.size() > 1 ? "one of " : "", fmt::join(others, ", ")),
                       fmt::format("add {}, or leave {} out",
                                   others.size() > 1 ? "one of these" : others.front(), option));
}

VerbParser& VerbParser::footer(const std::string& text) {
  app_->footer(text);
  return *this;
}

bool VerbParser::given(const std::string& name) const { return app_->count(name) > 0; }

}  // namespace er::cli

#include "parser.hpp"

#include <CLI/CLI.hpp>

namespace er::cli {

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
  app_->add_option(name, into, help)->capture_default_str();
  return *this;
}

VerbParser& VerbParser::number(const std::string& name, double& into, const std::string& help) {
  app_->add_option(name, into, help)->capture_default_str();
  return *this;
}

VerbParser& VerbParser::number(const std::string& name, std::uint64_t& into,
                               const std::string& help) {
  app_->add_option(name, into, help)->capture_default_str();
  return *this;
}

VerbParser& VerbParser::flag(const std::string& name, bool& into, const std::string& help) {
  app_->add_flag(name, into, help);
  return *this;
}

VerbParser& VerbParser::footer(const std::string& text) {
  app_->footer(text);
  return *this;
}

bool VerbParser::given(const std::string& name) const { return app_->count(name) > 0; }

}  // namespace er::cli

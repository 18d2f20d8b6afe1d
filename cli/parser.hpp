// The arguments of one verb. A thin face over the argument parser, so that only two files of the
// tool have to compile it.
#pragma once

#include <cstdint>
#include <map>
#include <memory>
#include <string>
#include <vector>

namespace CLI {
class App;
}

namespace er::cli {

class VerbParser {
 public:
  explicit VerbParser(CLI::App* app) : app_(app), company_(std::make_shared<Company>()) {}

  /// Names that begin with "--" are options; others are positions and must be there. What `into`
  /// holds already is the default and shown as such, unless it is empty.
  VerbParser& text(const std::string& name, std::string& into, const std::string& help);
  VerbParser& needed_text(const std::string& name, std::string& into, const std::string& help);
  VerbParser& texts(const std::string& name, std::vector<std::string>& into,
                    const std::string& help);
  /// What may follow the arguments without a name, any number of them.
  VerbParser& more(const std::string& name, std::vector<std::string>& into,
                   const std::string& help);
  VerbParser& number(const std::string& name, int& into, const std::string& help);
  /// The unit may follow the number: "50 %" as well as "50".
  VerbParser& number(const std::string& name, double& into, const std::string& help,
                     const std::string& unit = {});
  VerbParser& number(const std::string& name, std::uint64_t& into, const std::string& help);
  VerbParser& flag(const std::string& name, bool& into, const std::string& help);
  /// An option that says nothing unless one of the others is given, too: it is refused then, for
  /// to pass over it in silence would answer another question. Said again, it has more others.
  VerbParser& goes_with(const std::string& option, const std::vector<std::string>& others);
  /// An option that cannot be heeded beside any of the others.
  VerbParser& not_beside(const std::string& option, const std::vector<std::string>& others);
  /// What only the files that are named can tell: throws InputError "--option WHY" for the first of
  /// the options that is given.
  void refuse(const std::vector<std::string>& options, const std::string& why,
              const std::string& advice) const;
  /// Throws InputError where the command line breaks one of these.
  void check_company() const;
  /// Printed below the options: rules, then two examples.
  VerbParser& footer(const std::string& text);

  /// True when the option stood on the command line.
  [[nodiscard]] bool given(const std::string& name) const;
  [[nodiscard]] CLI::App& app() const { return *app_; }

 private:
  using Others = std::map<std::string, std::vector<std::string>>;  // by option
  struct Company {
    Others needed;   // one of them
    Others refused;  // any of them
  };

  CLI::App* app_;
  std::shared_ptr<Company> company_;  // of all copies
};

}  // namespace er::cli

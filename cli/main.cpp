// The elbowroom tool: finds the verb, runs it, prints its answer, and turns what went wrong into
// messages and exit codes. Nothing is computed here.
#include <fmt/format.h>

#include <cctype>

#include "verb.hpp"

namespace er::cli {
namespace {

const std::vector<std::string>& verb_names() {
  static const std::vector<std::string> names{"inspect", "where",  "reach", "route", "pace",
                                              "rehearse", "survey", "draw",  "demo"};
  return names;
}

// A value such as "-20 deg" after an option would be taken for an option itself: bind it with '='.
std::vector<std::string> bind_negative_values(const std::vector<std::string>& arguments) {
  std::vector<std::string> bound;
  for (const std::string& argument : arguments) {
    const bool negative = argument.size() > 1 && argument[0] == '-' &&
                          (std::isdigit(static_cast<unsigned char>(argument[1])) != 0 || argument[1] == '.');
    if (negative && !bound.empty() && bound.back().rfind("--", 0) == 0 &&
        bound.back().find('=') == std::string::npos) {
      bound.back() += "=" + argument;
    } else {
      bound.push_back(argument);
    }
  }
  return bound;
}

std::vector<std::string> option_names(const CLI::App& app) {
  std::vector<std::string> names;
  for (const CLI::Option* option : app.get_options())
    for (const std::string& name : option->get_lnames()) names.push_back("--" + name);
  return names;
}

int say(const std::string& verb, Exit exit, const std::string& text, Json json, bool as_json) {
  static constexpr std::array kVerdicts{"yes", "no", "bad input", "internal error"};
  if (as_json) {
    Json whole{{"verb", verb}, {"verdict", kVerdicts[static_cast<std::size_t>(exit)]}};
    whole.update(json);
    fmt::print("{}\n", whole.dump(2, ' ', false, Json::error_handler_t::replace));
  } else if (exit == Exit::yes || exit == Exit::no) {
    fmt::print("{}", text);
  } else {
    fmt::print(stderr, "elbowroom {}{}{}\n", verb, verb.empty() ? "" : ": ", text);
  }
  return static_cast<int>(exit);
}

int say_bad(const std::string& verb, const InputError& error, bool as_json) {
  return say(verb, Exit::bad_input, error.what(), Json{{"error", json_of(error)}}, as_json);
}

int run(const std::vector<std::string>& arguments) {
  bool as_json = std::find(arguments.begin(), arguments.end(), "--json") != arguments.end();
  CLI::App tool("elbowroom: will this arm do this job, here, without hitting anything?");
  tool.set_version_flag("--version", "elbowroom " ELBOWROOM_VERSION);
  tool.require_subcommand(1);
  tool.footer(
      "Exit codes: 0 yes, 1 the answer is no, 2 bad input or usage, 3 internal.\n"
      "examples:\n"
      "  elbowroom inspect demo/glaze.cell.yaml\n"
      "  elbowroom reach demo/glaze.cell.yaml --targets demo/kiln.targets.yaml --target upper_2");
  std::vector<Verb> verbs;
  for (const auto add : {add_inspect, add_where, add_reach, add_route, add_pace, add_rehearse,
                         add_survey, add_draw, add_demo})
    verbs.push_back(add(tool));
  for (const Verb& verb : verbs)
    verb.app->add_flag("--json", as_json, "answer in JSON, SI units, for programs");

  std::string name;
  if (!arguments.empty() && arguments[0].rfind('-', 0) != 0) {
    name = arguments[0];
    if (std::find(verb_names().begin(), verb_names().end(), name) == verb_names().end())
      return say_bad("", unknown_name("verb", name, verb_names()), as_json);
  }
  try {
    std::vector<std::string> reversed = bind_negative_values(arguments);
    std::reverse(reversed.begin(), reversed.end());
    tool.parse(reversed);
  } catch (const CLI::Success& success) {  // --help, --version
    tool.exit(success);
    return 0;
  } catch (const CLI::ExtrasError& error) {
    for (const Verb& verb : verbs) {
      if (verb.app->get_name() != name) continue;
      for (const std::string& extra : verb.app->remaining()) {
        const std::string option = extra.substr(0, extra.find('='));
        if (option.rfind("--", 0) == 0)
          return say_bad(name, unknown_name("option", option, option_names(*verb.app)), as_json);
        return say_bad(name, InputError(fmt::format("'{}' is one argument too many", extra),
                                        fmt::format("see elbowroom {} --help", name)), as_json);
      }
    }
    return say_bad(name, InputError(error.what()), as_json);
  } catch (const CLI::ParseError& error) {
    const std::string help = name.empty() ? "elbowroom --help" : "elbowroom " + name + " --help";
    return say_bad(name, InputError(error.what(), "see " + help), as_json);
  }
  for (const Verb& verb : verbs) {
    if (!verb.app->parsed()) continue;
    try {
      const Answer answer = verb.run();
      return say(name, answer.exit, answer.text, answer.json, as_json);
    } catch (const InputError& error) {
      return say_bad(name, error, as_json);
    }
  }
  return static_cast<int>(Exit::internal);
}

}  // namespace
}  // namespace er::cli

int main(int argc, char** argv) {
  try {
    return er::cli::run({argv + 1, argv + argc});
  } catch (const std::exception& error) {
    fmt::print(stderr, "elbowroom: internal error: {}\n", error.what());
    return static_cast<int>(er::cli::Exit::internal);
  }
}

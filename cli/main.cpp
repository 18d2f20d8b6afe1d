// The elbowroom tool: finds the verb, runs it, prints its answer, and turns what went wrong into
// messages and exit codes. Nothing is computed here.
#include <fmt/format.h>

#include <CLI/CLI.hpp>
#include <algorithm>
#include <array>
#include <cctype>

#include "elbowroom/base/instruction_set.hpp"
#include "verb.hpp"

namespace er::cli {
namespace {

struct VerbEntry {
  const char* name;
  const char* about;
  Verb (*add)(VerbParser);
};

constexpr std::array kVerbs{
    VerbEntry{"inspect", "what a cell says, and everything suspicious about it", add_inspect},
    VerbEntry{"where", "where a tool is, at a posture (forward kinematics)", add_where},
    VerbEntry{"pairs", "which pairs of bodies can meet, and which need no checking", add_pairs},
    VerbEntry{"reach", "every posture that meets a target, ranked, or why there is none",
              add_reach},
    VerbEntry{"follow", "a path of the tool tracked step by step, with every limit kept",
              add_follow},
    VerbEntry{"route", "a proved collision-free route to a stance or target", add_route},
    VerbEntry{"tune", "one routing question under many settings and seeds, compared", add_tune},
    VerbEntry{"pace", "a route, a list of stances or a move of the tool turned into a timed motion",
              add_pace},
    VerbEntry{"audit", "the evidence that a saved route is free, checked independently", add_audit},
    VerbEntry{"rehearse", "a routine from start to end, replayed and measured", add_rehearse},
    VerbEntry{"survey", "many targets tried at once: which can be reached", add_survey},
    VerbEntry{"draw", "a picture of the cell at a posture, with the tool's path", add_draw},
    VerbEntry{"convert", "a description in another form, or whether two say the same arm",
              add_convert},
    VerbEntry{"demo", "the full example on the shipped glazing cell", add_demo},
};

std::vector<std::string> verb_names() {
  std::vector<std::string> names;
  for (const VerbEntry& entry : kVerbs) names.emplace_back(entry.name);
  return names;
}

// A value such as "-20 deg" after an option would be taken for an option itself: bind it with '='.
std::vector<std::string> bind_negative_values(const std::vector<std::string>& arguments) {
  std::vector<std::string> bound;
  for (const std::string& argument : arguments) {
    const bool negative =
        argument.size() > 1 && argument[0] == '-' &&
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

// The first option that the verb does not have. Looked for before all else: a misspelt option must
// not be hidden behind the complaint that the right one is missing.
std::optional<InputError> unknown_option(const CLI::App& app,
                                         const std::vector<std::string>& arguments) {
  const auto known = option_names(app);
  for (const std::string& argument : arguments) {
    const std::string option = argument.substr(0, argument.find('='));
    if (option.rfind("--", 0) == 0 && std::find(known.begin(), known.end(), option) == known.end())
      return unknown_name("option", option, known);
  }
  return std::nullopt;
}

int say(const std::string& verb, Exit exit, const std::string& text, const std::string& json,
        bool as_json) {
  static constexpr std::array kVerdicts{"yes", "no", "bad input", "internal error"};
  if (as_json) {
    const std::string verdict(kVerdicts[static_cast<std::size_t>(exit)]);
    const std::string head = json_object({{"verb", json_of(verb)}, {"verdict", json_of(verdict)}});
    fmt::print("{}\n", json_joined({head, json}));
  } else if (exit == Exit::yes || exit == Exit::no) {
    fmt::print("{}", text);
  } else {
    fmt::print(stderr, "elbowroom{}{}: {}\n", verb.empty() ? "" : " ", verb, text);
  }
  return static_cast<int>(exit);
}

int say_bad(const std::string& verb, const InputError& error, bool as_json) {
  return say(verb, Exit::bad_input, error.what(), json_object({{"error", json_of(error)}}),
             as_json);
}

int run(const std::vector<std::string>& arguments) {
  bool as_json = std::find(arguments.begin(), arguments.end(), "--json") != arguments.end();
  CLI::App tool("Will this arm do this job, here, without hitting anything?", "elbowroom");
  tool.set_version_flag("--version", "elbowroom " ELBOWROOM_VERSION);
  tool.require_subcommand(1);
  tool.footer(
      "Exit codes: 0 yes, 1 the answer is no, 2 bad input or usage, 3 internal.\n"
      "ELBOWROOM_SIMD pins the vector instructions (avx3, avx2, neon, scalar); answers are the "
      "same.\n"
      "examples:\n"
      "  elbowroom inspect demo/glaze.cell.yaml\n"
      "  elbowroom reach demo/glaze.cell.yaml --targets demo/kiln.targets.yaml --target upper_2");
  std::vector<Verb> verbs;
  for (const VerbEntry& entry : kVerbs) {
    verbs.push_back(entry.add(VerbParser(tool.add_subcommand(entry.name, entry.about))));
    verbs.back().parser.flag("--json", as_json, "answer in JSON, SI units, for programs");
  }

  std::string name;
  if (arguments.empty())
    return say_bad("",
                   InputError("no verb is given", fmt::format("known: {}; see elbowroom --help",
                                                              fmt::join(verb_names(), ", "))),
                   as_json);
  if (arguments[0].rfind('-', 0) != 0) {
    name = arguments[0];
    const auto known = verb_names();
    if (std::find(known.begin(), known.end(), name) == known.end())
      return say_bad("", unknown_name("verb", name, known), as_json);
  }
  for (const Verb& verb : verbs)
    if (verb.parser.app().get_name() == name)
      if (const auto error = unknown_option(verb.parser.app(), arguments))
        return say_bad(name, *error, as_json);
  try {
    std::vector<std::string> reversed = bind_negative_values(arguments);
    std::reverse(reversed.begin(), reversed.end());
    tool.parse(reversed);
  } catch (const CLI::Success& success) {  // --help, --version
    tool.exit(success);
    return 0;
  } catch (const CLI::ExtrasError& error) {
    for (const Verb& verb : verbs) {
      if (verb.parser.app().get_name() != name) continue;
      const std::vector<std::string> extras = verb.parser.app().remaining();
      if (extras.empty()) continue;
      return say_bad(name,
                     InputError(fmt::format("'{}' is one argument too many", extras.front()),
                                fmt::format("see elbowroom {} --help", name)),
                     as_json);
    }
    return say_bad(name, InputError(error.what()), as_json);
  } catch (const CLI::ParseError& error) {
    const std::string help = name.empty() ? "elbowroom --help" : "elbowroom " + name + " --help";
    return say_bad(name, InputError(error.what(), "see " + help), as_json);
  }
  for (const Verb& verb : verbs) {
    if (!verb.parser.app().parsed()) continue;
    try {
      instruction_set();  // says so where ELBOWROOM_SIMD names one that there is not
      verb.parser.check_company();
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

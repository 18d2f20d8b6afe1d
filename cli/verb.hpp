// What the verbs of the tool share: their arguments, and how they answer.
#pragma once

#include <CLI/CLI.hpp>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "elbowroom/base/progress.hpp"
#include "elbowroom/files/json.hpp"
#include "elbowroom/kinematics/target.hpp"
#include "elbowroom/model/cell.hpp"

namespace er::cli {

/// Exit codes of the tool.
enum class Exit { yes = 0, no = 1, bad_input = 2, internal = 3 };

/// What a verb has to say: the same facts as text and as JSON.
struct Answer {
  Exit exit = Exit::yes;
  std::string text;  ///< the verdict is its first line
  Json json = Json::object();  ///< the members beside "verb" and "verdict"
};

/// An answer of no: the reason is the text.
Answer no(const Reason& reason);

/// One verb: its argument parser and what to run when it was chosen.
struct Verb {
  CLI::App* app = nullptr;
  std::function<Answer()> run;
};

/// Arguments that most verbs take. Each verb uses those it adds.
struct Arguments {
  std::string cell;
  std::string arm;
  std::string target;
  std::string targets;
  std::string tool;
  std::string place;
  std::string rpy;
  std::string frame;
  std::string clearance = "5 mm";
  std::vector<std::string> outs;
};

/// The cell file (required) and --arm.
void add_cell(CLI::App& app, Arguments& arguments);
/// --target with --targets, or --place with --rpy, --in and --tool.
void add_target(CLI::App& app, Arguments& arguments);
/// --clearance; the default stands in `arguments` already.
void add_clearance(CLI::App& app, Arguments& arguments);
/// --out FILE, any number of times; `endings` is what the help says of them.
void add_out(CLI::App& app, Arguments& arguments, const std::string& endings);

/// The target that the arguments name, or nothing when they name none.
std::optional<Target> read_target(const Cell& cell, const Arm& arm, const Arguments& arguments);
double read_clearance(const Arguments& arguments);

/// A posture from the command line: the name of a stance, or one quantity per moving joint with
/// commas between: "0 deg, -20 deg, ...".
Posture read_posture_argument(const Arm& arm, const std::string& text, const std::string& option);

/// Values with commas between, without the spaces around them.
std::vector<std::string> split_at_commas(const std::string& text);

/// Runs `read`, naming the option in an error it throws.
template <class Read>
auto for_option(const std::string& option, Read read) {
  try {
    return read();
  } catch (const InputError& error) {
    if (!error.place().file.empty()) throw;
    throw InputError(option + ": " + error.message(), error.advice());
  }
}

/// Checks the endings of --out before any work is done.
void check_endings(const Arguments& arguments, const std::vector<std::string>& known);

/// "  wrote FILE" for each file.
std::string wrote(const std::vector<std::string>& files);

/// Progress on standard error: a bar, when that is a terminal and the work takes over half a second.
Progress progress_bar();

// Each verb adds itself to the tool's parser.
Verb add_inspect(CLI::App& tool);
Verb add_where(CLI::App& tool);
Verb add_reach(CLI::App& tool);
Verb add_route(CLI::App& tool);
Verb add_pace(CLI::App& tool);
Verb add_rehearse(CLI::App& tool);
Verb add_survey(CLI::App& tool);
Verb add_draw(CLI::App& tool);
Verb add_demo(CLI::App& tool);

}  // namespace er::cli

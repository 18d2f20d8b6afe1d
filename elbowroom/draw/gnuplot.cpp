#include "elbowroom/draw/gnuplot.hpp"

#include <fmt/format.h>
#include <sys/wait.h>
#include <unistd.h>

#include <array>
#include <cstdio>
#include <cstdlib>
#include <fstream>
#include <sstream>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/files/write_file.hpp"

namespace er {
namespace {

void run(const std::string& script, const std::filesystem::path& shown) {
  std::array<char, 32> name{"/tmp/elbowroom_plot_XXXXXX"};
  const int file = mkstemp(name.data());
  if (file < 0) throw InputError("no temporary file can be made", "", {shown.string(), 0, 0});
  close(file);
  {
    std::ofstream out(name.data());
    out << script;
  }
  const std::string log = std::string(name.data()) + ".log";
  const int status = std::system(
      fmt::format("gnuplot '{}' >'{}' 2>&1", name.data(), log).c_str());  // NOLINT: our own text
  std::ifstream in(log);
  std::ostringstream said;
  said << in.rdbuf();
  std::remove(name.data());
  std::remove(log.c_str());
  if (status == 0) return;
  if (WIFEXITED(status) && WEXITSTATUS(status) == 127)
    throw InputError("gnuplot is not installed, and plots need it",
                     "install the package gnuplot-nox", {shown.string(), 0, 0});
  throw InputError("gnuplot could not draw this plot: " + said.str(), "", {shown.string(), 0, 0});
}

}  // namespace

std::string gnuplot_quoted(const std::string& text) {
  std::string out = "\"";
  for (const char c : text) {
    if (c == '"' || c == '\\') out += '\\';
    out += c;
  }
  return out + "\"";
}

std::string three_panels(const std::string& title, const std::string& note, double right,
                         double duration) {
  return fmt::format(
      "set multiplot\nset lmargin at screen 0.085\nset rmargin at screen {}\n"
      "set label 1 {} at screen 0.085,0.965 font 'DejaVu Sans,13'\n"
      "set label 2 {} at screen {},0.66 font 'DejaVu Sans,10'\n"
      "{}set xrange [0:{}]\n",
      right, gnuplot_quoted(title), gnuplot_quoted(note), right + 0.02, kPlotStyle, duration);
}

std::string panel_frame(int panel, const std::string& label) {
  return fmt::format(
      "{}set ylabel {}\n{}{}set tmargin at screen {:.3f}\nset bmargin at screen {:.3f}\n",
      panel == 0 ? "" : "unset label\n", gnuplot_quoted(label),
      panel == 2 ? "set xlabel \"time (s)\"\nset format x\n" : "set xlabel\nset format x \"\"\n",
      panel == 0 ? "set key outside right top\n" : "unset key\n", 0.93 - 0.29 * panel,
      0.93 - 0.29 * panel - 0.26);
}

void draw_with_gnuplot(const std::filesystem::path& path, int width, int height,
                       const std::string& script) {
  const std::string ending = path.extension().string();
  if (ending != ".png" && ending != ".svg")
    throw InputError(fmt::format("a plot is a .png or .svg file, found '{}'", ending), "",
                     {path.string(), 0, 0});
  write_file_through(path, [&](const std::filesystem::path& temporary) {
    const std::string head = fmt::format(
        "set encoding utf8\nset terminal {} size {},{} {} font 'DejaVu Sans,11'\n"
        "set output {}\n",
        ending == ".png" ? "pngcairo" : "svg", width, height,
        ending == ".png" ? "noenhanced rounded" : "noenhanced rounded dynamic",
        gnuplot_quoted(temporary.string()));
    run(head + script + "unset output\n", path);
  });
}

}  // namespace er

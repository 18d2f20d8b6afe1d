// throughput [QUESTIONS]: how many questions of routes are answered in a second by one thread and
// by two, and what memory they take in the long run.
#include <fmt/format.h>
#include <tbb/global_control.h>
#include <unistd.h>

#include <atomic>
#include <chrono>
#include <cstdlib>
#include <fstream>

#include "elbowroom/base/on_all_cores.hpp"
#include "elbowroom/route/route.hpp"
#include "support/clutter.hpp"

namespace {

using namespace er;

// Memory of this program that is in use, MB.
double resident() {
  std::ifstream file("/proc/self/statm");
  long all = 0;
  long in_use = 0;
  file >> all >> in_use;
  return static_cast<double>(in_use) * static_cast<double>(sysconf(_SC_PAGESIZE)) / 1e6;
}

double seconds_for(const CellQuery& query, const std::vector<test::RouteQuestion>& questions,
                   std::size_t count, std::size_t threads) {
  const tbb::global_control limit(tbb::global_control::max_allowed_parallelism, threads);
  const RouteOptions options{.clearance = test::kClearance, .searches = 1, .least_within = 0.0};
  std::atomic<long> found = 0;
  const auto began = std::chrono::steady_clock::now();
  on_all_cores(count, {}, "", [&](std::size_t i) {
    const test::RouteQuestion& one = questions[i % questions.size()];
    found += find_route(query, one.start, one.goals, options) ? 1 : 0;
  });
  const double seconds =
      std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count();
  if (found != static_cast<long>(count)) fmt::print("only {} of {} found\n", found.load(), count);
  return seconds;
}

}  // namespace

int main(int argc, char** argv) {
  const std::size_t count = argc > 1 ? std::strtoul(argv[1], nullptr, 10) : 2000;
  for (const test::Clutter clutter : test::kAllClutter) {
    const CellQuery query(test::clutter_cell(clutter), "");
    const auto questions = test::clutter_questions(query, clutter, 100, test::kClearance);
    seconds_for(query, questions, 100, 2);
    const double before = resident();
    const double one = seconds_for(query, questions, count, 1);
    const double two = seconds_for(query, questions, count, 2);
    fmt::print(
        "{:<20} {:8.0f} questions a second, {:8.0f} on two threads ({:.2f} times); {:.1f} MB, "
        "{:+.2f} MB after {} questions\n",
        name_of(clutter), static_cast<double>(count) / one, static_cast<double>(count) / two,
        one / two, before, resident() - before, 2 * count);
  }
  return 0;
}

// missed_postures [COUNT]: how many random postures of each family of chains its closed form fails
// to find again from their tip poses, and how long it takes over a pose.
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <chrono>
#include <cstdlib>
#include <utility>
#include <vector>

#include "elbowroom/reach/closed_form.hpp"
#include "support/chains.hpp"

namespace {

using namespace er;

// Beside a singularity two postures come together, and which is which is lost in rounding.
constexpr double kRegular = 1e-3;

const char* pattern_of(RandomStream& random, const std::array<const char*, 6>& all) {
  return all[std::min<std::size_t>(5, static_cast<std::size_t>(random.uniform(0, 6)))];
}

template <class Chain>
void count(const char* family, int poses, int poses_per_chain, Chain make_chain) {
  RandomStream random(17);
  int asked = 0, missed = 0, said_complete = 0, missed_of_complete = 0;
  long postures = 0;
  double worst = 0.0;
  std::vector<double> times;
  while (asked < poses) {
    const ScrewChain chain = make_chain(random);
    const auto form = ClosedForm::of(chain);
    if (!form) continue;  // singular in every posture
    for (int n = 0; n < poses_per_chain; ++n) {
      const test::Angles q = test::random_angles(random);
      if (chain.size() == 6 && test::regularity(chain, q) < kRegular) continue;
      const Pose tip = chain.at(q.data());
      ClosedSolutions all;
      const auto began = std::chrono::steady_clock::now();
      form->solve(tip, all);
      times.push_back(
          std::chrono::duration<double, std::micro>(std::chrono::steady_clock::now() - began)
              .count());
      ++asked;
      postures += all.count;
      const bool found = test::has(chain, all, q, 1e-5);
      missed += found ? 0 : 1;
      said_complete += all.complete ? 1 : 0;
      missed_of_complete += all.complete && !found ? 1 : 0;
      for (const ClosedSolution& one : all)
        worst = std::max(worst, (chain.at(one.values.data()).position - tip.position).norm());
    }
  }
  std::sort(times.begin(), times.end());
  fmt::print(
      "{:<34} {:>8} poses, {:>8} postures, {:>3} missed; {:>8} said complete, {} missed of those; "
      "worst {:.1e} m; median {:.2f} us, p99 {:.2f} us\n",
      family, asked, postures, missed, said_complete, missed_of_complete, worst,
      times[times.size() / 2], times[times.size() * 99 / 100]);
}

}  // namespace

int main(int argc, char** argv) {
  const int poses = argc > 1 ? std::atoi(argv[1]) : 100000;
  const auto always = [](const ScrewChain& chain) {
    return [chain](RandomStream&) { return chain; };
  };
  count("spherical wrist, usual", poses, 1000, always(test::wrist_chain()));
  count("three parallel axes, offset wrist", poses, 1000, always(test::parallel_chain()));
  count("spherical wrist, any three axes", poses, 100,
        [](RandomStream& random) { return test::meeting_from(3, test::random_chain(random, 6)); });
  count("the same, all but special", poses / 5, 1, [](RandomStream& random) {
    return test::off_by_a_little(random,
                                 test::meeting_from(3, test::random_squared_chain(random, 6)));
  });
  count("wrist after a slide or two", poses, 1, [](RandomStream& random) {
    return test::sliding_where(
        pattern_of(random, {"STTTTT", "TSTTTT", "TTSTTT", "SSTTTT", "STSTTT", "TSSTTT"}),
        test::meeting_from(3, test::random_chain(random, 6)));
  });
  count("the same, all but special", poses / 5, 1, [](RandomStream& random) {
    const auto chain = test::meeting_from(3, test::random_squared_chain(random, 6));
    return test::off_by_a_little(
        random, test::sliding_where(pattern_of(random, {"STTTTT", "TSTTTT", "TTSTTT", "SSTTTT",
                                                        "STSTTT", "TSSTTT"}),
                                    chain));
  });
  count("three of six slide", poses, 1, [](RandomStream& random) {
    return test::sliding_where(
        pattern_of(random, {"SSSTTT", "STSTST", "TTTSSS", "TSSTTS", "SSTTST", "TSTSST"}),
        test::random_chain(random, 6));
  });
  count("six joints, random", poses, 1,
        [](RandomStream& random) { return test::random_chain(random, 6); });
  count("five joints, random", poses, 1,
        [](RandomStream& random) { return test::random_chain(random, 5); });
  count("four joints, random", poses, 1,
        [](RandomStream& random) { return test::random_chain(random, 4); });
  for (const auto& [family, joints] : {std::pair{"six joints, special", 6},
                                       {"five joints, special", 5},
                                       {"four joints, special", 4}})
    count(family, poses / 5, 1, [joints = joints](RandomStream& random) {
      ScrewChain chain = test::random_special_chain(random);
      chain.screws.resize(static_cast<std::size_t>(joints));
      return chain;
    });
}

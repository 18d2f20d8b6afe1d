// hunt [LINES] [SEED]: the hunt for counter-examples to proofs of motion, at length: see
// tests/support/hunt.hpp.
#include "support/hunt.hpp"

#include <fmt/format.h>

#include <cstdlib>

int main(int argc, char** argv) {
  const int lines = argc > 1 ? std::atoi(argv[1]) : 10000;
  const auto seed = static_cast<std::uint64_t>(argc > 2 ? std::atoi(argv[2]) : 1);
  const er::test::HuntResult found = er::test::hunt(seed, lines, 200);
  fmt::print(
      "{} counter-examples in {} proofs asked for more than there is, on {} lines ({} postures "
      "looked at); {:.1f} % proved with 1 to 20 um to spare\n",
      found.contradicted, 2 * found.lines, found.lines, found.samples,
      100.0 * static_cast<double>(found.free) / static_cast<double>(found.lines));
  return found.contradicted == 0 ? 0 : 1;
}

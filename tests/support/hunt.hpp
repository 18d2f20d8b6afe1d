// The hunt for counter-examples to proofs of motion: random lines past thin plates, wires, edges
// and tiny balls, asked to keep nanometres to a micrometre more than they do.
#pragma once

#include <cstdint>

namespace er::test {

struct HuntResult {
  long lines = 0;         ///< whose least distance was found by sampling
  long samples = 0;       ///< postures looked at for that
  long contradicted = 0;  ///< proofs that they keep more than that: must be none
  long free = 0;          ///< lines proved to keep 1 to 20 um less than that
};

/// Deterministic in the seed.
HuntResult hunt(std::uint64_t seed, int lines, int samples_each);

}  // namespace er::test

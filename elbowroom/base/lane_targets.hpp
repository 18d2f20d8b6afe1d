// Which instruction sets the kernels are compiled for: those whose speeds differ enough to be worth
// their time in the compiler. Comes before Highway's own headers, in every kernel's file; so what
// ELBOWROOM_SIMD pins is heeded before any kernel runs.
#pragma once

#include "elbowroom/base/instruction_set.hpp"

#define HWY_DISABLED_TARGETS \
  (HWY_SSSE3 | HWY_SSE4 | HWY_AVX3_DL | HWY_SVE | HWY_SVE2 | HWY_SVE_256 | HWY_SVE2_128)

namespace er {
inline const bool kInstructionSetIsPinned = heed_pinned_instruction_set();
}  // namespace er

// Which instruction sets the kernels are compiled for: those whose speeds differ enough to be worth
// their time in the compiler. Comes before Highway's own headers.
#pragma once

#define HWY_DISABLED_TARGETS \
  (HWY_SSSE3 | HWY_SSE4 | HWY_AVX3_DL | HWY_SVE | HWY_SVE2 | HWY_SVE_256 | HWY_SVE2_128)

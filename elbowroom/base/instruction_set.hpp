// Which of the processor's vector instruction sets the kernels run on: the best there is, unless
// ELBOWROOM_SIMD or a call pins another.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace er {

/// Those that this processor has and the kernels were compiled for, best first: "avx3" (512 bits),
/// "avx2", "neon", "scalar".
std::vector<std::string> instruction_sets();

/// The one in use.
std::string instruction_set();

/// Uses another one from now on, in all threads. Throws InputError naming those there are.
void pin_instruction_set(std::string_view name);

/// Pins what ELBOWROOM_SIMD names, the first time it is called; a name that is not known throws
/// InputError from instruction_set(), here it leaves the best in use. lane_targets.hpp calls it
/// when the program starts; gives true.
bool heed_pinned_instruction_set();

}  // namespace er

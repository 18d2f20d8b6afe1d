// What is only ever compared is held in floats, and what rounding does to them is added.
#pragma once

namespace er {

/// What rounding adds to a length of 1 m in any comparison of the kernels, at most. 24 roundings
/// are more than come together in one.
inline constexpr double kFloatRounding = 24.0 / (1 << 24);

/// Sums of float products lose less than this, relative, for any number of joints.
inline constexpr float kRoundedUp = 1.0F + 1e-5F;

/// The next float that is not below it.
float rounded_up_to_float(double value);

}  // namespace er

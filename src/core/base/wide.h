#pragma once

/// Compiles a function once for any machine and once for those with 256-bit registers, and picks at start.
/// The same sums in the same order either way (no fused multiply-add), so the same bits. Not under the
/// sanitizers, whose runtime is not up yet when the choice is made.
#if defined(__x86_64__) && !defined(__SANITIZE_ADDRESS__) && !defined(__SANITIZE_THREAD__) && !defined(BONEMOSS_SANITIZE)
#define BONEMOSS_WIDE __attribute__((target_clones("avx2", "default")))
#else
#define BONEMOSS_WIDE
#endif

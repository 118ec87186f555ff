//! The widest vectors that the machine has, chosen when the program runs.

use pulp::Arch;

/// Does this with the widest vectors there are, told how many numbers they hold. What is to profit has to be inlined. No
/// product and sum is fused, so the bits are the same on every machine.
#[inline(always)]
pub(super) fn dispatch<R>(work: impl FnOnce(usize) -> R) -> R {
    let arch = Arch::new();
    let lanes = match arch {
        #[cfg(target_arch = "x86_64")]
        Arch::V3(_) => 8,
        #[cfg(target_arch = "x86_64")]
        Arch::V4(_) => 16,
        _ => 4,
    };
    arch.dispatch(
        #[inline(always)]
        || work(lanes),
    )
}

#pragma once

#include <cstddef>
#include <new>
#include <vector>

namespace bonemoss {

/// Memory for arrays the size of a block of skin (4 to 128 KB), cut from slabs of 2 MB that the system is asked to back with
/// one large page each: whoever goes through millions of vertices then looks up a five-hundredth of the pages. Where the
/// system has none to give, they are common pages. Freed memory is used again; up to 1 GB of it is kept. Other sizes come from
/// the heap. Throws std::bad_alloc. Any thread may call; O(1), but for the slab when one is begun.
void *takePaged(std::size_t bytes);
/// Gives back what takePaged gave for so many bytes.
void givePaged(void *memory, std::size_t bytes) noexcept;
/// Bytes that arrays in slabs take up now.
std::size_t pagedBytesInUse();

/// Allocator that takes from there.
template <typename T> struct LargePages {
    using value_type = T;
    static_assert(alignof(T) <= __STDCPP_DEFAULT_NEW_ALIGNMENT__);

    LargePages() = default;
    template <typename U> LargePages(const LargePages<U> &) noexcept {}
    T *allocate(std::size_t n)
    {
        if (n > std::size_t(-1) / sizeof(T))
            throw std::bad_alloc();
        return static_cast<T *>(takePaged(n * sizeof(T)));
    }
    void deallocate(T *p, std::size_t n) noexcept { givePaged(p, n * sizeof(T)); }
    friend bool operator==(LargePages, LargePages) { return true; }
};
template <typename T> using PagedVector = std::vector<T, LargePages<T>>;

} // namespace bonemoss

#include "base/large_pages.h"

#include "base/wide.h"

#include <atomic>
#include <cstdint>
#include <mutex>
#include <sys/mman.h>

namespace bonemoss {

namespace {

constexpr std::size_t kSlab = std::size_t(2) << 20, kStep = 4096, kMost = 128 * 1024;
/// Between arrays, so that those of one size do not all begin at the same place of the cache.
constexpr std::size_t kApart = 192;
/// Empty slabs are kept, as keepFreedMemory() keeps freed memory: to have pages cleared again costs more than a stroke.
constexpr std::size_t kSpareSlabs = 512;

/// At the start of each slab; the places for arrays follow.
struct alignas(64) Slab {
    Slab *before = nullptr, *after = nullptr; ///< among those of its size that have room
    void *freed = nullptr;                    ///< the first of a chain of places that were given back
    std::uint32_t begun = 0, places = 0;      ///< the first so many were in use at some time
    std::uint32_t inUse = 0;

    bool hasRoom() const { return freed || begun < places; }
};

/// Arrays of one size.
struct Size {
    std::mutex mutex;
    Slab *first = nullptr, *last = nullptr; ///< with room

    void add(Slab *s)
    {
        s->before = last, s->after = nullptr;
        (last ? last->after : first) = s;
        last = s;
    }
    void remove(Slab *s)
    {
        (s->before ? s->before->after : first) = s->after;
        (s->after ? s->after->before : last) = s->before;
    }
};

constinit Size g_sizes[kMost / kStep];
constinit std::mutex g_spareMutex;
constinit void *g_spare = nullptr; ///< a chain of empty slabs
constinit std::size_t g_spareCount = 0;
constinit std::atomic<std::size_t> g_inUse{0};

/// Which of g_sizes, or one past them for what the heap serves.
std::size_t sizeOf([[maybe_unused]] std::size_t bytes)
{
#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__) || defined(BONEMOSS_SANITIZE)
    return std::size(g_sizes); // the heap's own checks see more
#else
    return bytes < kStep || bytes > kMost ? std::size(g_sizes) : (bytes - 1) / kStep;
#endif
}
std::size_t strideOf(std::size_t size)
{
    return (size + 1) * kStep + kApart;
}

Slab *mapSlab()
{
    // Twice as much is asked for, and what lies beside a slab at a whole multiple of its size given back.
    void *at = mmap(nullptr, 2 * kSlab, PROT_READ | PROT_WRITE, MAP_PRIVATE | MAP_ANONYMOUS, -1, 0);
    if (at == MAP_FAILED)
        throw std::bad_alloc();
    char *all = static_cast<char *>(at);
    const std::size_t ahead = (kSlab - reinterpret_cast<std::uintptr_t>(all) % kSlab) % kSlab;
    if (ahead)
        munmap(all, ahead);
    munmap(all + ahead + kSlab, kSlab - ahead);
    madvise(all + ahead, kSlab, MADV_HUGEPAGE); // a wish: without it all goes on as well, only slower
    return ::new (all + ahead) Slab;
}

Slab *beginSlab(std::size_t size)
{
    Slab *slab = nullptr;
    {
        const std::lock_guard lock(g_spareMutex);
        if (g_spare) {
            slab = static_cast<Slab *>(g_spare);
            g_spare = slab->freed;
            --g_spareCount;
        }
    }
    slab = slab ? ::new (slab) Slab : mapSlab();
    slab->places = std::uint32_t((kSlab - sizeof(Slab)) / strideOf(size));
    return slab;
}

void endSlab(Slab *slab)
{
    const std::lock_guard lock(g_spareMutex);
    if (g_spareCount < kSpareSlabs) {
        slab->freed = g_spare;
        g_spare = slab;
        ++g_spareCount;
    } else {
        munmap(slab, kSlab);
    }
}

} // namespace

void *takePaged(std::size_t bytes)
{
    const std::size_t size = sizeOf(bytes);
    if (size == std::size(g_sizes))
        return ::operator new(bytes);
    Size &own = g_sizes[size];
    const std::lock_guard lock(own.mutex);
    if (!own.first)
        own.add(beginSlab(size));
    Slab *slab = own.first;
    void *place = slab->freed;
    if (place)
        slab->freed = *static_cast<void **>(place);
    else
        place = reinterpret_cast<char *>(slab + 1) + slab->begun++ * strideOf(size);
    ++slab->inUse;
    if (!slab->hasRoom())
        own.remove(slab);
    g_inUse.fetch_add(strideOf(size), std::memory_order_relaxed);
    return place;
}

void givePaged(void *memory, std::size_t bytes) noexcept
{
    const std::size_t size = sizeOf(bytes);
    if (size == std::size(g_sizes)) {
        ::operator delete(memory);
        return;
    }
    Size &own = g_sizes[size];
    auto *slab = reinterpret_cast<Slab *>(reinterpret_cast<std::uintptr_t>(memory) / kSlab * kSlab);
    const std::lock_guard lock(own.mutex);
    if (!slab->hasRoom())
        own.add(slab);
    *static_cast<void **>(memory) = slab->freed;
    slab->freed = memory;
    g_inUse.fetch_sub(strideOf(size), std::memory_order_relaxed);
    if (--slab->inUse == 0) {
        own.remove(slab);
        endSlab(slab);
    }
}

std::size_t pagedBytesInUse()
{
    return g_inUse.load(std::memory_order_relaxed);
}

} // namespace bonemoss

#pragma once

#include <cstddef>
#include <functional>
#include <memory>
#include <stop_token>
#include <vector>

namespace bonemoss {

struct BlockRange {
    std::size_t begin = 0, end = 0;
};

/// Calls body once for each block of blockSize items in [0, count), on any thread, in any order.
/// Blocks depend on count and blockSize only, never on the number of threads. body must not throw.
/// Returns false if stop was requested; blocks not yet begun are then skipped.
bool forEachBlock(std::size_t count, std::size_t blockSize, std::stop_token stop, const std::function<void(BlockRange)> &body);
inline bool forEachBlock(std::size_t count, std::size_t blockSize, const std::function<void(BlockRange)> &body)
{
    return forEachBlock(count, blockSize, {}, body);
}

/// Sum of body over the blocks, added in block order: the same bits on 1 thread and on 64.
template <typename T, typename Body> T sumBlocks(std::size_t count, std::size_t blockSize, const Body &body)
{
    std::vector<T> partial((count + blockSize - 1) / blockSize);
    forEachBlock(count, blockSize, {}, [&](BlockRange r) { partial[r.begin / blockSize] = body(r); });
    T sum{};
    for (const T &p : partial)
        sum = sum + p;
    return sum;
}

/// Allocator of vectors whose new elements are not filled, for arrays that a loop writes whole: with elements of trivial
/// construction, resize() then costs nothing.
template <typename T> struct NoFill : std::allocator<T> {
    template <typename U> struct rebind {
        using other = NoFill<U>;
    };
    template <typename U> void construct(U *p) noexcept { ::new (static_cast<void *>(p)) U; }
    template <typename U, typename... Args> void construct(U *p, Args &&...args)
    {
        std::construct_at(p, std::forward<Args>(args)...);
    }
};
template <typename T> using RawVector = std::vector<T, NoFill<T>>;

/// Limits loops to n threads while it lives (0: as many as the machine has). For tests and benches.
class ThreadLimit
{
public:
    explicit ThreadLimit(int threads);
    ~ThreadLimit();
    ThreadLimit(const ThreadLimit &) = delete;
    ThreadLimit &operator=(const ThreadLimit &) = delete;

private:
    int m_before;
};

/// Keeps freed memory for reuse: first touch of fresh pages costs more than the work done in them.
/// Call once at program start.
void keepFreedMemory();

} // namespace bonemoss

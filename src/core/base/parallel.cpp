#include "base/parallel.h"

#include <atomic>
#include <malloc.h>
#ifdef BONEMOSS_PLAIN_THREADS
#include <thread>
#else
#include <tbb/parallel_for.h>
#include <tbb/task_arena.h>
#endif

namespace bonemoss {

namespace {
std::atomic<int> g_threadLimit{0}; // 0: no limit; set by ThreadLimit only
} // namespace

bool forEachBlock(std::size_t count, std::size_t blockSize, std::stop_token stop, const std::function<void(BlockRange)> &body)
{
    const std::size_t blocks = (count + blockSize - 1) / blockSize;
    const auto run = [&](std::size_t b) {
        if (!stop.stop_requested())
            body({b * blockSize, std::min(count, (b + 1) * blockSize)});
    };
    const int limit = g_threadLimit.load(std::memory_order_relaxed);
    if (blocks <= 1 || limit == 1) {
        for (std::size_t b = 0; b < blocks; ++b)
            run(b);
    } else {
#ifdef BONEMOSS_PLAIN_THREADS
        std::atomic<std::size_t> next{0};
        const auto work = [&] {
            for (std::size_t b = next++; b < blocks; b = next++)
                run(b);
        };
        std::vector<std::jthread> threads;
        const unsigned n = limit > 0 ? unsigned(limit) : std::max(2u, std::thread::hardware_concurrency());
        for (unsigned t = 0; t < n; ++t)
            threads.emplace_back(work);
#else
        const auto loop = [&] { tbb::parallel_for(std::size_t(0), blocks, run); };
        if (limit > 0)
            tbb::task_arena(limit).execute(loop);
        else
            loop();
#endif
    }
    return !stop.stop_requested();
}

ThreadLimit::ThreadLimit(int threads) : m_before(g_threadLimit.exchange(threads)) {}
ThreadLimit::~ThreadLimit()
{
    g_threadLimit = m_before;
}

void keepFreedMemory()
{
    mallopt(M_MMAP_THRESHOLD, 1 << 30);
    mallopt(M_TRIM_THRESHOLD, 1 << 30);
    mallopt(M_TOP_PAD, 64 << 20);
}

} // namespace bonemoss

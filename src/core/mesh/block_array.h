#pragma once

#include "base/large_pages.h"

#include <array>
#include <cassert>
#include <cstddef>
#include <cstdint>
#include <memory>
#include <utility>
#include <vector>

namespace bonemoss::mesh {

/// Vertices per block. A block is a compact spot of skin and the unit of editing, undo and saving.
inline constexpr std::size_t kBlockSize = 4096;
constexpr std::size_t blockCountFor(std::size_t n)
{
    return (n + kBlockSize - 1) / kBlockSize;
}

/// Up to kBlockSize values, shared between states once published and never changed then.
template <typename T> struct Block {
    PagedVector<T> values;
    /// Content hash remembered by the store, zero when not yet known. Only the store touches it.
    mutable std::array<std::uint64_t, 2> contentHash{};
};

/// Values cut into blocks that states share; a missing block stands for all T{}.
/// Copying costs one pointer per block; editing a block copies that block only.
template <typename T> class BlockArray
{
public:
    using Ptr = std::shared_ptr<Block<T>>;

    BlockArray() = default;
    explicit BlockArray(std::size_t size) : m_size(size), m_blocks(blockCountFor(size)) {}
    explicit BlockArray(const std::vector<T> &values) : BlockArray(values.size())
    {
        for (std::size_t b = 0; b < m_blocks.size(); ++b) {
            m_blocks[b] = std::make_shared<Block<T>>();
            const auto first = values.begin() + std::ptrdiff_t(b * kBlockSize);
            m_blocks[b]->values.assign(first, first + std::ptrdiff_t(countIn(b)));
        }
    }

    std::size_t size() const { return m_size; }
    std::size_t blockCount() const { return m_blocks.size(); }
    std::size_t countIn(std::size_t b) const { return b + 1 < m_blocks.size() ? kBlockSize : m_size - b * kBlockSize; }
    bool has(std::size_t b) const { return m_blocks[b] != nullptr; }
    bool isBlank() const
    {
        for (const Ptr &p : m_blocks)
            if (p)
                return false;
        return true;
    }
    /// Values of block b, or null where all are T{}.
    const T *data(std::size_t b) const { return m_blocks[b] ? m_blocks[b]->values.data() : nullptr; }
    /// Tells the machine that the values of block b will be asked for soon.
    void fetch(std::size_t b) const { __builtin_prefetch(m_blocks[b].get()); }
    T operator[](std::size_t i) const
    {
        const Ptr &p = m_blocks[i / kBlockSize];
        return p ? p->values[i % kBlockSize] : T{};
    }
    std::shared_ptr<const Block<T>> share(std::size_t b) const { return m_blocks[b]; }
    /// Same values by identity, without looking at them.
    bool sharesWith(const BlockArray &other, std::size_t b) const { return m_blocks[b] == other.m_blocks[b]; }

    void put(std::size_t b, Ptr block)
    {
        assert(!block || block->values.size() == countIn(b));
        m_blocks[b] = std::move(block);
    }
    void takeFrom(const BlockArray &other, std::size_t b) { m_blocks[b] = other.m_blocks[b]; }
    /// Whether edit(b) would copy.
    bool isHeldElsewhere(std::size_t b) const { return m_blocks[b].use_count() > 1; }
    /// Writable values of block b; copies the block first when another state shares it.
    T *edit(std::size_t b)
    {
        Ptr &p = m_blocks[b];
        if (!p) {
            p = std::make_shared<Block<T>>();
            p->values.resize(countIn(b));
        } else if (p.use_count() > 1) {
            auto copy = std::make_shared<Block<T>>();
            copy->values = p->values;
            p = std::move(copy);
        } else {
            p->contentHash = {};
        }
        return p->values.data();
    }
    /// Adds T{} at the end; copies the last block where it grows. n must not be below size().
    void grow(std::size_t n)
    {
        assert(n >= m_size);
        if (!m_blocks.empty() && m_blocks.back() && n > m_size && countIn(m_blocks.size() - 1) < kBlockSize) {
            auto last = std::make_shared<Block<T>>();
            last->values = m_blocks.back()->values;
            last->values.resize(std::min(kBlockSize, n - (m_blocks.size() - 1) * kBlockSize));
            m_blocks.back() = std::move(last);
        }
        m_size = n;
        m_blocks.resize(blockCountFor(n));
    }
    std::vector<T> flatten() const
    {
        std::vector<T> all;
        all.reserve(m_size);
        for (std::size_t b = 0; b < m_blocks.size(); ++b) {
            if (m_blocks[b])
                all.insert(all.end(), m_blocks[b]->values.begin(), m_blocks[b]->values.end());
            else
                all.resize(all.size() + countIn(b));
        }
        return all;
    }

private:
    std::size_t m_size = 0;
    std::vector<Ptr> m_blocks;
};

} // namespace bonemoss::mesh

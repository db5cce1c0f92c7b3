// A list whose copies share their elements until one of them is changed. The states of a piece of work are copies of
// one another that differ in a few elements; with this they cost memory for those few.
#pragma once
#include <algorithm>
#include <atomic>
#include <cstddef>
#include <initializer_list>
#include <iterator>
#include <memory>
#include <utility>
#include <vector>

namespace rasoir {

/// Reads like a std::vector. Writing is spoken: `change(i)` gives an element to write to, which is copied first where
/// another list holds it as well. Reading never copies, so lists that share elements can be read from several threads
/// while one of them is changed; the same list cannot, as with any container.
template <class T>
class SharedVector {
    using Elements = std::vector<std::shared_ptr<const T>>;

public:
    using value_type = T;

    class const_iterator {
    public:
        using iterator_category = std::random_access_iterator_tag;
        using value_type = T;
        using difference_type = std::ptrdiff_t;
        using pointer = const T*;
        using reference = const T&;

        const_iterator() = default;
        explicit const_iterator(typename Elements::const_iterator at) : m_at(at) {}
        reference operator*() const { return **m_at; }
        pointer operator->() const { return m_at->get(); }
        reference operator[](difference_type n) const { return *m_at[n]; }
        const_iterator& operator++() { return ++m_at, *this; }
        const_iterator operator++(int) { return const_iterator(m_at++); }
        const_iterator& operator--() { return --m_at, *this; }
        const_iterator operator--(int) { return const_iterator(m_at--); }
        const_iterator& operator+=(difference_type n) { return m_at += n, *this; }
        const_iterator& operator-=(difference_type n) { return m_at -= n, *this; }
        friend const_iterator operator+(const_iterator at, difference_type n) { return at += n; }
        friend const_iterator operator+(difference_type n, const_iterator at) { return at += n; }
        friend const_iterator operator-(const_iterator at, difference_type n) { return at -= n; }
        friend difference_type operator-(const_iterator a, const_iterator b) { return a.m_at - b.m_at; }
        friend auto operator<=>(const const_iterator& a, const const_iterator& b) = default;

    private:
        typename Elements::const_iterator m_at;
    };
    using iterator = const_iterator;

    SharedVector() = default;
    SharedVector(std::initializer_list<T> elements) {
        m_elements.reserve(elements.size());
        for (const T& element : elements) push_back(element);
    }

    [[nodiscard]] std::size_t size() const { return m_elements.size(); }
    [[nodiscard]] bool empty() const { return m_elements.empty(); }
    const T& operator[](std::size_t i) const { return *m_elements[i]; }
    [[nodiscard]] const T& front() const { return *m_elements.front(); }
    [[nodiscard]] const T& back() const { return *m_elements.back(); }
    [[nodiscard]] const_iterator begin() const { return const_iterator(m_elements.begin()); }
    [[nodiscard]] const_iterator end() const { return const_iterator(m_elements.end()); }

    /// The element for writing; a copy of its own where another list holds it. Throws where there is none. The
    /// reference is good until this list is copied: writing through it afterwards would be seen in both.
    T& change(std::size_t i) {
        std::shared_ptr<const T>& element = m_elements.at(i);
        if (element.use_count() > 1) element = std::make_shared<T>(*element);
        // The last other holder may have let go in another thread; what it read is read before this is written.
        std::atomic_thread_fence(std::memory_order_acquire);
        return const_cast<T&>(*element);  // made as a T that is not const, by this class
    }
    T& changeLast() { return change(size() - 1); }
    /// Changes those for which `wanted` holds, by `how`; the others stay shared.
    template <class Wanted, class How>
    void changeWhere(Wanted wanted, How how) {
        for (std::size_t i = 0; i < size(); ++i)
            if (wanted(*m_elements[i])) how(change(i));
    }
    template <class How>
    void changeAll(How how) {
        for (std::size_t i = 0; i < size(); ++i) how(change(i));
    }

    void push_back(T element) { m_elements.push_back(std::make_shared<T>(std::move(element))); }
    /// Puts the element of another list behind the last, shared with it.
    void share(const SharedVector& other, std::size_t i) { m_elements.push_back(other.m_elements[i]); }
    void insert(std::size_t before, T element) {
        m_elements.insert(at(before), std::make_shared<T>(std::move(element)));
    }
    template <class Unwanted>
    void eraseWhere(Unwanted unwanted) {
        std::erase_if(m_elements, [&unwanted](const auto& element) { return unwanted(*element); });
    }
    void erase(std::size_t i) { m_elements.erase(at(i)); }
    void resize(std::size_t size) {
        while (m_elements.size() < size) push_back(T());
        m_elements.resize(size);
    }
    void clear() { m_elements.clear(); }
    /// Sorts by a comparison of elements; nothing is copied.
    template <class Less>
    void stableSort(Less less) {
        std::stable_sort(m_elements.begin(), m_elements.end(),
                         [&less](const auto& a, const auto& b) { return less(*a, *b); });
    }

private:
    typename Elements::iterator at(std::size_t i) { return m_elements.begin() + static_cast<std::ptrdiff_t>(i); }

    Elements m_elements;
};

}  // namespace rasoir

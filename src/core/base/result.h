#pragma once

#include <cassert>
#include <string>
#include <utility>
#include <variant>

namespace bonemoss {

enum class ErrorCode {
    Malformed,   ///< bytes that break their own format
    Unreadable,  ///< cannot be opened or read
    Unwritable,  ///< cannot be written
    Unsupported, ///< a known kind that we do not handle
    BadValue,    ///< a parameter out of its range or of the wrong kind
    Unknown,     ///< a name or id that is not there
    Empty,       ///< nothing to work on
    TooLarge,    ///< would need more memory than allowed
    Cancelled,
    Internal, ///< a fault of the program, met on the way
    Conflict, ///< somebody else changed it meanwhile
    Damaged   ///< a store whose checksums do not match
};

/// What went wrong: a code, the subject (file, form, parameter) and a detail in plain words.
struct Error {
    ErrorCode code = ErrorCode::BadValue;
    std::string subject;
    std::string detail;
    std::string text() const { return subject.empty() ? detail : subject + ": " + detail; }
};

/// A value or an Error. value() on an error is a bug and asserts.
template <typename T> class [[nodiscard]] Result
{
public:
    Result(T value) : m_state(std::in_place_index<0>, std::move(value)) {}
    Result(Error error) : m_state(std::in_place_index<1>, std::move(error)) {}

    explicit operator bool() const { return m_state.index() == 0; }
    const T &value() const &
    {
        assert(*this);
        return *std::get_if<0>(&m_state);
    }
    T &value() &
    {
        assert(*this);
        return *std::get_if<0>(&m_state);
    }
    T &&value() &&
    {
        assert(*this);
        return std::move(*std::get_if<0>(&m_state));
    }
    const T &operator*() const & { return value(); }
    T &operator*() & { return value(); }
    T &&operator*() && { return std::move(*this).value(); }
    const T *operator->() const { return &value(); }
    T *operator->() { return &value(); }
    const Error &error() const
    {
        assert(!*this);
        return *std::get_if<1>(&m_state);
    }

private:
    std::variant<T, Error> m_state;
};

struct Done {
};
using Status = Result<Done>;

/// An error on its way up through code that is caught as a whole (commands, workers): see need().
struct Failure {
    Error error;
};

/// The value of a result; its error travels up as a Failure. Only below a place that ends in errorInFlight().
template <typename T> T need(Result<T> result)
{
    if (!result)
        throw Failure{result.error()};
    return std::move(*result);
}

/// The exception that is being handled, as an error. To be called in a catch block.
Error errorInFlight(std::string subject);

} // namespace bonemoss

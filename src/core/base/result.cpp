#include "base/result.h"

#include <exception>
#include <new>
#include <stdexcept>

namespace bonemoss {

Error errorInFlight(std::string subject)
{
    try {
        throw;
    } catch (Failure &failure) {
        return std::move(failure.error);
    } catch (const std::bad_alloc &) {
        return {ErrorCode::TooLarge, std::move(subject), "the memory is full"};
    } catch (const std::length_error &) { // more than any memory holds
        return {ErrorCode::TooLarge, std::move(subject), "the memory is full"};
    } catch (const std::exception &e) {
        return {ErrorCode::Internal, std::move(subject), e.what()};
    } catch (...) {
        return {ErrorCode::Internal, std::move(subject), "an unknown fault"};
    }
}

} // namespace bonemoss

// The one error type. Its text is a whole line a person can act on: what went
// wrong, where, and what to do. The kind decides the batch program's exit code
// and how the window shows it.
#pragma once

#include <stdexcept>
#include <string>

namespace yokai {

enum class ErrorKind {
    Usage,  // a value that makes no sense as asked
    Input,  // something that cannot be read, or in which nothing is kept
    Output, // something that cannot be written
    Fit,    // marks that cannot be fitted, or not well enough
    Device, // a machine that does not answer as it should
};

class Error : public std::runtime_error {
public:
    Error(ErrorKind kind, const std::string& line) : std::runtime_error(line), kind_(kind) {}
    ErrorKind kind() const { return kind_; }

private:
    ErrorKind kind_;
};

// Thrown through a computation that was asked to stop; never shown as a fault.
class Cancelled : public std::exception {
public:
    const char* what() const noexcept override { return "stopped"; }
};

} // namespace yokai

// A serial line of our own: a pseudo-terminal whose other end any program opens
// as it would open a cable.
#pragma once

#include <string>

namespace yokai::standin {

class Link {
public:
    Link(); // throws Error(Device)
    ~Link();
    Link(const Link&) = delete;
    Link& operator=(const Link&) = delete;

    const std::string& port() const { return port_; } // "/dev/pts/4"
    // The next line without its end; false when nobody will write any more.
    bool readLine(std::string& line);
    void write(const std::string& text);

private:
    int fd_ = -1;
    int held_ = -1; // our own hold on the far end, so that a client may come and go
    std::string port_, pending_;
};

} // namespace yokai::standin

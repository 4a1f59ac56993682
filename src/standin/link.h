// A serial line of our own: a pseudo-terminal whose other end any program opens as it would open a cable. Under a name of
// its own the line may be lost and come back, as a cable that is pulled and plugged in.
#pragma once

#include <string>

namespace yokai::standin {

class Link {
public:
    // `name`: a symbolic link that always leads to the line; empty: none. Throws Error(Device).
    explicit Link(std::string name = {});
    ~Link();
    Link(const Link&) = delete;
    Link& operator=(const Link&) = delete;

    const std::string& port() const { return name_.empty() ? port_ : name_; } // "/dev/pts/4"
    // What has come within so many milliseconds.
    std::string read(int milliseconds);
    void write(const std::string& text);
    void pull();  // the cable
    void plug();  // again
    bool pulled() const { return fd_ < 0; }

private:
    void open();
    void close();
    int fd_ = -1;
    int held_ = -1; // our own hold on the far end, so that a client may come and go
    std::string name_, port_;
};

} // namespace yokai::standin

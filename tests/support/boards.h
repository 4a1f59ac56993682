// Machines at the other end of a pseudo-terminal, written for the tests alone and sharing nothing with the stand-in: they answer as little as
// real ones do, and keep what they cut.
#pragma once

#include "path/path.h"

#include <QString>

#include <deque>
#include <mutex>
#include <string>
#include <thread>
#include <vector>

namespace yokai::test {

class Board {
public:
    Board();
    virtual ~Board();
    Board(const Board&) = delete;
    Board& operator=(const Board&) = delete;
    const QString& port() const { return port_; }
    std::vector<Polyline> cuts() const; // mm, one for each time the tool was down
    std::size_t lost() const { return lost_; }

protected:
    void begin(); // once it is whole
    void end();   // before it is not
    virtual void hear(char c) = 0;
    virtual void next() = 0; // it stands still: what it does now
    void say(const std::string& text);
    void go(Point to) { target_ = to, moving_ = true; }
    void tool(bool down);

    std::size_t lost_ = 0; // characters that found no room
    Point at_;
    bool moving_ = false, held_ = false, down_ = false;

private:
    void serve(const std::stop_token& over);
    int master_ = -1, slave_ = -1;
    QString port_;
    Point target_;
    mutable std::mutex mutex_;
    std::vector<Polyline> cuts_;
    std::jthread thread_;
};

// A plotter of the old kind: 255 characters, and told to forget what it has it still finishes the vector it is at.
class OldPlotter : public Board {
public:
    OldPlotter() { begin(); }
    ~OldPlotter() override { end(); }

private:
    void hear(char c) override;
    void next() override;
    std::string buffer_, escape_;
};

// A board that says its state and its place, and neither how full it is nor which line it does. Reset while it moves it loses its place.
class PlainBoard : public Board {
public:
    PlainBoard() { begin(); }
    ~PlainBoard() override { end(); }

private:
    void hear(char c) override;
    void next() override;
    void take();
    std::string text_;
    std::deque<std::string> lines_;  // it has answered
    std::deque<std::string> waiting_; // it has not
    bool alarm_ = false;
};

} // namespace yokai::test

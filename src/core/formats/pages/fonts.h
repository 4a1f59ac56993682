// Inter, which ships with the program, for those who draw words outside the window: its bytes are part of the program.
#pragma once

#include <span>

namespace yokai::pages {

std::span<const unsigned char> interRegular();
std::span<const unsigned char> interSemiBold();

} // namespace yokai::pages

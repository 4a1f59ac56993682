// Lines that programs draw piece by piece, put together where they meet end to end.
#pragma once

#include "machine/cut_item.h"

namespace yokai {

// Open paths of one kind whose ends lie on one another become one; one that comes back to its start is closed.
void joinOpenLines(CutItems& items);

} // namespace yokai

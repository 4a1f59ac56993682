// Text as files can hold it.
#pragma once

#include <string>
#include <string_view>

namespace yokai {

// Well-formed UTF-8 (RFC 3629) without control characters but tab and line ends: what is not
// becomes U+FFFD, a control character nothing. File names may be any bytes; XML and JSON may not.
std::string cleanText(std::string_view text);
// The same as XML's text or an attribute's value.
std::string xmlText(const std::string& text);

} // namespace yokai

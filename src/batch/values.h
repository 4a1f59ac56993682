// What an option's text says: a number, a length, an area, a choice. All throw Error(Usage) naming the option.
#pragma once

#include "base/error.h"
#include "base/fields.h"
#include "base/length.h"
#include "base/text.h"

#include <string>

namespace yokai::batch {

double plainOption(const std::string& text, const char* option, double least, double most);
Length lengthOption(const std::string& text, const char* option);
double areaOption(const std::string& text, const char* option); // mm2

// A length within the limits of the spec's field.
template <class T, class S> Length lengthOption(const std::string& text, const char* option, T S::*field)
{
    const Length value = lengthOption(text, option);
    if (const Limits l = limitsOf(field); value.mm() < l.least || value.mm() > l.most)
        throw Error(ErrorKind::Usage, "{} '{}' is out of range; use {} to {} mm", option, text, plainNumber(l.least, 3), plainNumber(l.most, 3));
    return value;
}

// One of an enumeration's names.
template <NamedEnum E> E choiceOption(const std::string& text, const char* option)
{
    if (const auto found = fromName<E>(text))
        return *found;
    throw Error(ErrorKind::Usage, "{} '{}' is not {}", option, text, namesIn<E>());
}

} // namespace yokai::batch

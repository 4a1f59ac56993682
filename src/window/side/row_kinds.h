// How rows of the side list are made, for those who make them; one file a group of stations.
#pragma once

#include "side/side_rows.h"

namespace yokai {

using Kind = SideRow::Kind;
using Of = SideRow::Of;

inline SideRow section(const QString& text)
{
    SideRow row;
    row.kind = Kind::Section;
    row.title = text;
    return row;
}
inline SideRow figure(const QString& title, const QString& detail)
{
    SideRow row;
    row.title = title;
    row.detail = detail;
    return row;
}
inline SideRow warning(Kind kind, const QString& title, const QString& detail = {})
{
    SideRow row = figure(title, detail);
    row.kind = kind;
    return row;
}

// What the Cut station shows: how it landed, operations, marks, fit.
void cutRows(const Desk& desk, std::vector<SideRow>& rows);

} // namespace yokai

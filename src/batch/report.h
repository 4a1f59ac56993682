// The JSON report: positions in mm, y up, from the bottom-left corner.
#pragma once

#include "formats/drawing.h"
#include "job/derive.h"
#include "machine/plan.h"

#include <nlohmann/json.hpp>

namespace yokai::batch {

using Json = nlohmann::ordered_json;

Json pieceReport(const Piece& piece, const PieceResult& result);
Json sheetReport(const Job& job, const Derived& derived, int sheet);
Json fitReport(const Fit& fit);
Json planReport(const Plan& plan);
Json findingsReport(const Job& job, const Derived& derived, bool onSheet);
void writeReport(const Json& report, const std::string& target);

} // namespace yokai::batch

#include "machine/library.h"

namespace yokai {

namespace {

Machine blade(const char* name, Length width, Length depth)
{
    Machine m;
    m.name = name;
    m.kind = MachineKind::Cutter;
    m.bed.width = width;
    m.bed.depth = depth;
    m.tool.bladeOffset = 250_um;
    m.tool.overcut = 1_mm;
    m.tool.forceMost = 500;
    m.motion = {Speed::mmPerSecond(300), 2000, 20_um, 0.04};
    return m;
}

Machine beam(const char* name, Length width, Length depth, Length kerf)
{
    Machine m;
    m.name = name;
    m.kind = MachineKind::Laser;
    m.bed.width = width;
    m.bed.depth = depth;
    m.tool.kerf = kerf;
    m.tool.beam = kerf;
    m.tool.leadIn = 1_mm;
    m.tool.powerFollowsSpeed = true; // it burns only while it moves, whatever ends the program that drives it
    m.motion = {Speed::mmPerSecond(200), 1000, 10_um, 0};
    return m;
}

// How one process is done: speed in mm/s, percent of power, gram of force.
struct Done {
    int speed;
    double power, force;
    int passes = 1;
    bool air = false;
};
ProcessSettings settingsOf(const Done& done, Length depth)
{
    ProcessSettings s;
    s.speed = Speed::mmPerSecond(done.speed);
    s.power = done.power;
    s.force = done.force;
    s.passes = done.passes;
    s.air = done.air;
    s.bladeDepth = depth;
    return s;
}

struct Sample {
    const char* name;
    Length thickness;
    Rgba colour;
    Done engrave, crease, kiss, perforate, through;
    BurnHazard hazard = BurnHazard::None;
};

} // namespace

std::vector<Machine> sampleMachines()
{
    std::vector<Machine> out;
    Machine reed = blade("Reed, desk cutter", 305_mm, 610_mm);
    reed.eye = {Eye::Sensor, 18_mm, 12_mm, 50_um, 8_mm};
    out.push_back(reed);
    Machine willow = blade("Willow, roll cutter", 630_mm, 5000_mm);
    willow.dialect = Dialect::Hpgl;
    willow.link = {{}, 9600, 1024};
    willow.motion.acceleration = 4000;
    out.push_back(willow);
    out.push_back(beam("Lantern, diode laser", 400_mm, 400_mm, 120_um));
    Machine furnace = beam("Furnace, large laser", 900_mm, 600_mm, 180_um);
    furnace.bed.origin = BedCorner::FarLeft;
    furnace.bed.yNear = true;
    furnace.motion = {Speed::mmPerSecond(500), 3000, 10_um, 0};
    furnace.eye = {Eye::Camera, 60_mm, 0_mm, 50_um, 8_mm};
    out.push_back(furnace);
    return out;
}

std::vector<Material> sampleMaterials()
{
    static const Sample samples[] = {
        {"Paper sticker sheet, matt", 120_um, {250, 249, 245, 255}, {200, 12, 40}, {60, 6, 60}, {60, 14, 90}, {40, 30, 210}, {30, 34, 210, 2}},
        {"Vinyl sticker sheet, gloss", 150_um, {255, 255, 255, 255}, {200, 14, 40}, {60, 8, 70}, {50, 16, 110}, {30, 36, 240}, {25, 40, 240, 2}, BurnHazard::Chlorine},
        {"Clear film", 100_um, {235, 240, 240, 255}, {200, 16, 40}, {60, 8, 70}, {50, 18, 120}, {30, 38, 250}, {25, 42, 250, 2}},
        {"Heat transfer film", 200_um, {245, 245, 245, 255}, {200, 12, 40}, {60, 8, 70}, {40, 16, 100}, {30, 36, 260}, {20, 40, 260, 2}},
        {"White card, 300 g", 400_um, {252, 252, 250, 255}, {250, 20, 40}, {40, 12, 180}, {40, 22, 200}, {25, 55, 350}, {20, 62, 350, 3, true}},
        {"Brown card, 300 g", 400_um, {176, 141, 99, 255}, {250, 16, 40}, {40, 10, 180}, {40, 18, 200}, {25, 46, 350}, {20, 52, 350, 3, true}},
        {"Felt, 2 mm", 2_mm, {190, 60, 50, 255}, {200, 20, 40}, {30, 20, 200}, {30, 30, 300}, {20, 60, 450}, {15, 70, 450, 2, true}},
        {"Birch plywood, 3 mm", 3_mm, {222, 190, 140, 255}, {250, 30, 40}, {30, 30, 200}, {20, 40, 300}, {10, 85, 500, 1, true}, {8, 90, 500, 1, true}},
        {"Clear acrylic, 3 mm", 3_mm, {230, 238, 240, 255}, {300, 25, 40}, {30, 25, 200}, {20, 40, 300}, {8, 90, 500, 1, true}, {6, 95, 500, 1, true}},
    };
    std::vector<Material> out;
    for (const Sample& s : samples) {
        Material m;
        m.name = s.name;
        m.thickness = s.thickness;
        m.colour = s.colour;
        m.hazard = s.hazard;
        // A blade stands out by half a sticker's thickness for a kiss, and by a little more than all of it to go through.
        const Length half = Length::ticks(s.thickness.ticks() / 2), through = s.thickness + 50_um;
        m.of(Process::Engrave) = settingsOf(s.engrave, half);
        m.of(Process::Crease) = settingsOf(s.crease, half);
        m.of(Process::Kiss) = settingsOf(s.kiss, half);
        m.of(Process::Perforate) = settingsOf(s.perforate, through);
        m.of(Process::Through) = settingsOf(s.through, through);
        out.push_back(m);
    }
    return out;
}

} // namespace yokai

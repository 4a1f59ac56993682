// What a general reader of G-code makes of a program: every way it goes with the tool down, as places a small step apart, mm.
//   node toolpath.cjs MODULES PROGRAM.gcode OUT.json
'use strict';
const fs = require('fs');
const path = require('path');
const [modules, program, out] = process.argv.slice(2);
const Toolpath = require(path.join(modules, 'gcode-toolpath'));

const step = 0.05; // mm
const runs = [];
let down = false, run = null;
const note = (modal, from, places) => {
    const k = modal.units === 'G20' ? 1 : 1; // the reader turns inches into mm itself
    down = modal.spindle !== 'M5' && modal.motion !== 'G0';
    if (!down) {
        run = null;
        return;
    }
    if (!run)
        runs.push(run = [[from.x * k, from.y * k]]);
    for (const p of places)
        run.push([p.x * k, p.y * k]);
};
const reader = new Toolpath({
    modal: { motion: 'G0', wcs: 'G54', plane: 'G17', units: 'G21', distance: 'G90', feedrate: 'G94', program: 'M0', spindle: 'M5', coolant: 'M9', tool: 0 },
    addLine: (modal, a, b) => note(modal, a, [b]),
    addArcCurve: (modal, a, b, c) => {
        // As the reader gives them: from, to and the middle.
        let from = Math.atan2(a.y - c.y, a.x - c.x), to = Math.atan2(b.y - c.y, b.x - c.x);
        const r = Math.hypot(a.x - c.x, a.y - c.y);
        if (modal.motion === 'G3' && to <= from)
            to += 2 * Math.PI;
        if (modal.motion === 'G2' && to >= from)
            to -= 2 * Math.PI;
        const n = Math.max(1, Math.ceil(Math.abs(to - from) * r / step));
        const places = [];
        for (let i = 1; i < n; ++i) {
            const at = from + (to - from) * i / n;
            places.push({ x: c.x + r * Math.cos(at), y: c.y + r * Math.sin(at) });
        }
        places.push(b);
        note(modal, a, places);
    },
});
reader.loadFromStringSync(fs.readFileSync(program, 'utf8'));
fs.writeFileSync(out, JSON.stringify(runs));

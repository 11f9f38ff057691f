"""Whole trips by porous-electrode models, for crates/core/tests/it/trips.rs and the nickel curves of chemistry/ocv.rs.

Needs: pip install pybamm==26.10.1.1 (BSD-3-Clause). Run: python trips.py OUTPUT_FOLDER
Writes lead-trips-pybamm-26.10.csv and lfp-trips-pybamm-26.10.csv: volts of a 12 V unit (six cells of lead, four of LFP)
through a day of stretches, a row a minute; and nickel-ocv-pybamm-26.10.csv: open-circuit volts of two nickel cells.
"""
import pathlib
import sys

import numpy as np
import pybamm

from duty_runs import LEAD, LFP, run

pybamm.set_logging_level("ERROR")
OUT = pathlib.Path(sys.argv[1])

# (rate in multiples of the 20-hour capacity per hour, minutes)
DAY = [(0.2, 30), (0, 20), (0.06, 60), (0.35, 12), (0.06, 45), (0, 30), (0.2, 40), (0.06, 60), (0.3, 15), (0.06, 90),
       (0.15, 60), (0.3, 20), (0.06, 120), (0.3, 60)]
# Another day, of long holds and short hard stretches.
GUSTY = [(0.12, 45), (0.45, 6), (0.09, 40), (0.45, 6), (0.09, 40), (0, 40), (0.12, 60), (0.4, 8), (0.04, 90), (0.25, 25),
         (0, 15), (0.09, 60), (0.45, 8), (0.05, 120), (0.2, 60)]


def trip(model, values, plan, size, end, start=None):
    steps = [
        pybamm.step.current(size * rate, duration=minutes * 60, period=60, termination=f"{end} V")
        if rate else pybamm.step.current(0, duration=minutes * 60, period=60)
        for rate, minutes in plan
    ]
    simulation = pybamm.Simulation(model(), experiment=pybamm.Experiment(steps), parameter_values=values)
    solution = simulation.solve(**({"initial_soc": start} if start else {}))
    hours = solution["Time [h]"].entries
    amps = solution["Current [A]"].entries / size
    volts = solution["Battery voltage [V]"].entries
    used = solution["Discharge capacity [A.h]"].entries / size
    rows, last = [], -1.0
    for row in zip(hours, amps, volts, used):
        if row[0] - last > 1e-4:
            rows.append(row)
            last = row[0]
    return rows


def lead():
    lines = [
        f"# library: pybamm {pybamm.__version__}; model: lead_acid.Full, isothermal; parameter set Sulzer2019, plates and acid changed",
        "# one trip of a 12 V unit from full; current and charge used in multiples of the cell's own 20-hour capacity",
        "cell,time_h,current_c,voltage_v,used",
    ]
    for cell, day in (("thin", DAY), ("middling", DAY), ("thick", DAY), ("slow acid", DAY), ("middling", GUSTY), ("thick", GUSTY)):
        thick, acid = LEAD[cell]
        values = pybamm.ParameterValues("Sulzer2019")
        for part in ("Negative electrode", "Separator", "Positive electrode"):
            values[f"{part} thickness [m]"] *= thick
        diffusivity = values["Electrolyte diffusivity [m2.s-1]"]
        values["Electrolyte diffusivity [m2.s-1]"] = lambda c, d=diffusivity, by=acid: d(c) * by
        q20 = 17.0 * thick
        for _ in range(6):
            q20 = run(pybamm.lead_acid.Full, values, [(0.05, 1800)], q20, 60)
        name = cell + (" gusty" if day is GUSTY else "")
        for h, c, v, u in trip(pybamm.lead_acid.Full, values, day, q20, 10.5):
            lines.append(f"{name},{h:.4f},{c:.4f},{v:.3f},{u:.4f}")
        print(name, len(lines), flush=True)
    (OUT / "lead-trips-pybamm-26.10.csv").write_text("\n".join(lines) + "\n")


def lfp():
    lines = [
        f"# library: pybamm {pybamm.__version__}; model: DFN, isothermal; parameter set Prada2013, diffusivity in the particles changed",
        "# one trip of four cells in series from full; current and charge used in multiples of the cell's own 20-hour capacity",
        "cell,time_h,current_c,voltage_v,used",
    ]
    for cell, slower in {"as published": 1.0, "brisk": LFP["brisk"]}.items():
        values = pybamm.ParameterValues("Prada2013")
        values["Lower voltage cut-off [V]"] = 2.5
        for part in ("Negative", "Positive"):
            values[f"{part} particle diffusivity [m2.s-1]"] *= slower
        q20 = 2.3
        for _ in range(4):
            q20 = run(pybamm.lithium_ion.DFN, values, [(0.05, 1800)], q20, 30, 1.0, 2.5)
        for name, day in ((cell, DAY), (cell + " gusty", GUSTY)):
            for h, c, v, u in trip(pybamm.lithium_ion.DFN, values, day, q20, 2.5, 1.0):
                lines.append(f"{name},{h:.4f},{c:.4f},{4 * v:.3f},{u:.4f}")
            print(name, len(lines), flush=True)
    (OUT / "lfp-trips-pybamm-26.10.csv").write_text("\n".join(lines) + "\n")


def nickel():
    lines = [
        f"# library: pybamm {pybamm.__version__}; electrode potentials of two parameter sets, balanced between 3.0 and 4.2 V",
        "# open-circuit volts of a cell by charge share; Chen2020: nickel-rich (NMC811); Mohtat2020: NMC532",
        "share,chen2020,mohtat2020",
    ]
    columns = []
    for name in ("Chen2020", "Mohtat2020"):
        values = pybamm.ParameterValues(name)
        values["Lower voltage cut-off [V]"] = 3.0
        values["Upper voltage cut-off [V]"] = 4.2
        values["Open-circuit voltage at 0% SOC [V]"] = 3.0
        values["Open-circuit voltage at 100% SOC [V]"] = 4.2
        param = pybamm.LithiumIonParameters()
        x0, x100, y100, y0 = pybamm.lithium_ion.get_min_max_stoichiometries(values)
        u_p = values.process_symbol(param.p.prim.U(pybamm.Scalar(0.5), param.T_init))
        curve = []
        for n in range(101):
            s = n / 100
            x, y = x0 + s * (x100 - x0), y0 + s * (y100 - y0)
            u = values.evaluate(param.p.prim.U(pybamm.Scalar(y), param.T_init)) - values.evaluate(param.n.prim.U(pybamm.Scalar(x), param.T_init))
            curve.append(float(u))
        columns.append(curve)
    for n in range(101):
        lines.append(f"{n / 100:.2f}," + ",".join(f"{c[n]:.4f}" for c in columns))
    (OUT / "nickel-ocv-pybamm-26.10.csv").write_text("\n".join(lines) + "\n")


if __name__ == "__main__":
    OUT.mkdir(exist_ok=True)
    nickel()
    lfp()
    lead()

"""Discharge curves of two porous-electrode simulations, for crates/core/tests/it/reference.rs.

Needs: pip install pybamm==26.10.1.1 (BSD-3-Clause). Run: python discharge_curves.py OUTPUT_FOLDER
Writes lfp-pybamm-26.10-prada2013-dfn.csv and lead-acid-pybamm-26.10-sulzer2019-full.csv.
"""
import pathlib
import sys

import numpy as np
import pybamm

OUT = pathlib.Path(sys.argv[1])


def rows_of(solution, count):
    """About `count` rows, evenly along the run, the end among them."""
    time = solution["Time [s]"].entries
    keep = np.unique(np.round(np.linspace(0, len(time) - 1, count)).astype(int))
    return time, keep


def lfp():
    values = pybamm.ParameterValues("Prada2013")
    values["Lower voltage cut-off [V]"] = 2.0
    lines = [
        f"# library: pybamm {pybamm.__version__}; parameter set: Prada2013 (LFP/graphite 2.3 Ah nominal); model: DFN, isothermal 298 K",
        "# settings: default solver, initial_soc=1.0, lower cut-off 2.0 V; about 250 rows a run; V is per cell",
        "case,time_s,discharged_Ah,current_A,V,bulk_OCV",
    ]
    for case, rate in [("C/20", 0.05), ("C/5", 0.2), ("C/2", 0.5), ("1C", 1.0), ("2C", 2.0)]:
        amps = 2.3 * rate
        period = 3600 / rate / 260
        step = pybamm.step.current(amps, duration=1.3 * 3600 / rate, period=period, termination="2.0 V")
        simulation = pybamm.Simulation(pybamm.lithium_ion.DFN(), experiment=pybamm.Experiment([step]), parameter_values=values)
        solution = simulation.solve(initial_soc=1.0)
        time, keep = rows_of(solution, 250)
        drawn = solution["Discharge capacity [A.h]"].entries
        volts = solution["Voltage [V]"].entries
        rest = solution["Bulk open-circuit voltage [V]"].entries
        for n in keep:
            lines.append(f"{case},{time[n]:.0f},{drawn[n]:.4f},{amps:.3f},{volts[n]:.4f},{rest[n]:.4f}")
        print(case, len(keep), time[-1], drawn[-1], volts[-1])
    (OUT / "lfp-pybamm-26.10-prada2013-dfn.csv").write_text("\n".join(lines) + "\n")


def lead():
    values = pybamm.ParameterValues("Sulzer2019")

    def run(steps):
        simulation = pybamm.Simulation(pybamm.lead_acid.Full(), experiment=pybamm.Experiment(steps), parameter_values=values)
        return simulation.solve()

    def steady(q20, rate, end="10.5 V"):
        return pybamm.step.current(q20 * rate, duration=2 * 3600 / rate, period=3600 / rate / 230, termination=end)

    # The twenty-hour capacity to 1.75 V a cell, found by its definition.
    q20 = 17.0
    for _ in range(6):
        q20 = float(run([steady(q20, 0.05)])["Discharge capacity [A.h]"].entries[-1])
    lines = [
        f"# library: pybamm {pybamm.__version__}; parameter set: Sulzer2019 (VRLA, 17 Ah nominal); model: lead_acid.Full, isothermal 294.85 K",
        f"# cut-off 1.75 V/cell; q and current are shares of Q20 = {q20:.4f} Ah, this model's 20-hour capacity to 1.75 V; V per cell",
        "case,time_s,q_over_Q20,I_over_Q20_per_h,V",
    ]
    rates = [("C/40", 0.025), ("C/20", 0.05), ("C/10", 0.1), ("C/5", 0.2), ("C/3", 1 / 3), ("C/2", 0.5), ("0.7C", 0.7), ("1C", 1.0)]
    for case, rate in rates:
        write(lines, case, run([steady(q20, rate)]), q20, 220)
    on = lambda: pybamm.step.current(q20 * 0.5, duration=1200, period=60, termination="10.5 V")
    off = lambda: pybamm.step.current(0, duration=600, period=60)
    write(lines, "C/2_20on10off", run([s() for _ in range(12) for s in (on, off)]), q20, 400)
    (OUT / "lead-acid-pybamm-26.10-sulzer2019-full.csv").write_text("\n".join(lines) + "\n")


def write(lines, case, solution, q20, count):
    time, keep = rows_of(solution, count)
    drawn = solution["Discharge capacity [A.h]"].entries / q20
    # A step that met the cut-off ends the run: what the experiment does after it does not count.
    under = np.flatnonzero(solution["Battery voltage [V]"].entries <= 10.5003)
    keep = np.unique(np.append(keep[keep < under[0]], under[0]))
    amps = solution["Current [A]"].entries / q20
    volts = solution["Battery voltage [V]"].entries / 6
    for n in keep:
        lines.append(f"{case},{time[n]:.0f},{drawn[n]:.5f},{amps[n]:.4f},{volts[n]:.4f}")
    print(case, len(keep), time[-1], drawn[-1], volts[-1])


lfp()
lead()

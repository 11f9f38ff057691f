"""Lead-acid and lithium under on-and-off duty, for crates/core/tests/it/duty.rs.

Needs: pip install pybamm==26.10.1.1 (BSD-3-Clause). Run: python duty_runs.py OUTPUT_FOLDER
Writes lead-duty-pybamm-26.10.csv and lfp-slow-pybamm-26.10.csv: what is delivered until the cut-off is first
met under load. A cell is the published one with its plates, its acid or its particles changed.
"""
import pathlib
import sys

import numpy as np
import pybamm

pybamm.set_logging_level("ERROR")

OUT = pathlib.Path(sys.argv[1])

# Name: (thickness of plates and separator, diffusivity of the acid), times the published ones.
LEAD = {"thin": (1.0, 1.0), "middling": (1.5, 1.0), "thick": (2.0, 0.8), "slow acid": (1.0, 0.4)}
# Diffusivity in the particles of both electrodes, times the published one.
LFP = {"brisk": 0.4, "slow": 0.2}

# (rate in multiples of the 20-hour capacity per hour, minutes), gone through over and over.
STEADY = {f"steady {rate:g}C": [(rate, 1.3 * 60 / rate)] for rate in (0.01, 0.05, 0.1, 0.2, 0.3, 0.5, 0.7, 1.0, 1.5)}
DUTY = {
    "1C 5 on, 25 off": [(1, 5), (0, 25)],
    "1C 20 on, 40 off": [(1, 20), (0, 40)],
    "1C 3 on, 3 off": [(1, 3), (0, 3)],
    "0.7C 10 on, 10 off": [(0.7, 10), (0, 10)],
    "0.5C 15 on, 30 off": [(0.5, 15), (0, 30)],
    "0.5C 4 on, 8 off": [(0.5, 4), (0, 8)],
    "0.3C 20 on, 20 off": [(0.3, 20), (0, 20)],
    "0.2C 30 on, 30 off": [(0.2, 30), (0, 30)],
    "0.1C with 1C for 2 in 30": [(0.1, 28), (1, 2)],
    "0.3C and 0.05C, 15 each": [(0.3, 15), (0.05, 15)],
    "1.5C 4 on, 16 off": [(1.5, 4), (0, 16)],
    "fishing: out, hold, home": [(0.6, 15), (0.12, 120), (0, 45), (0.12, 90), (0.6, 600)],
    "hard, rest, light": [(1, 15), (0, 45), (0.1, 1500)],
    "light, then hard": [(0.1, 180), (1, 200)],
    "mixed drive": [(0.1, 20), (0.7, 6), (0.3, 15), (0, 10), (1.0, 4), (0.2, 25)],
}


def run(model, values, plan, size, hours, start=None, end=10.5):
    """Goes through the plan over and over for so many hours; Ah until the end is met under load, and the curve."""
    once = sum(minutes for _, minutes in plan) / 60
    steps = []
    for rate, minutes in plan * int(np.ceil(hours / once)):
        seconds = minutes * 60
        if rate:
            steps.append(pybamm.step.current(size * rate, duration=seconds, period=seconds / 20, termination=f"{end} V"))
        else:
            steps.append(pybamm.step.current(0, duration=seconds, period=seconds / 2))
    options = {"initial_soc": start} if start else {}
    simulation = pybamm.Simulation(model(), experiment=pybamm.Experiment(steps), parameter_values=values)
    solution = simulation.solve(**options)
    volts = solution["Battery voltage [V]"].entries
    seconds, amps = solution["Time [s]"].entries, solution["Current [A]"].entries
    under = np.flatnonzero(volts <= end + 0.0003)
    at = seconds[under[0]] if len(under) else np.inf
    # A step that the voltage would not bear from its first moment is left out: the end as well.
    clock = 0.0
    for rate, minutes in plan * int(np.ceil(hours / once)):
        if clock >= at or clock + 1 > seconds[-1]:
            break
        during = amps[np.searchsorted(seconds, clock + 1)]
        if abs(during - size * rate) > 1e-6 * size:
            at = clock
        clock += minutes * 60
    if not np.isfinite(at):
        raise RuntimeError("the end is not met")
    return float(np.interp(at, seconds, solution["Discharge capacity [A.h]"].entries))


def words(plan):
    return " ".join(f"{rate:g}C {minutes:g}min" for rate, minutes in plan)


def hours_of(plan):
    """Long enough to empty anything: 1.3 times the capacity at the plan's mean rate."""
    minutes = sum(m for _, m in plan)
    return 1.3 * minutes / sum(r * m for r, m in plan) + minutes / 60


def lead():
    lines = [
        f"# library: pybamm {pybamm.__version__}; model: lead_acid.Full, isothermal; parameter set Sulzer2019, plates and acid changed",
        "# Ah until 1.75 V a cell is first met under load, over those of the steady 20-hour run; current in multiples of those per hour",
        "cell,profile,current_and_minutes,delivered_share",
    ]
    for cell, (thick, acid) in LEAD.items():
        values = pybamm.ParameterValues("Sulzer2019")
        for part in ("Negative electrode", "Separator", "Positive electrode"):
            values[f"{part} thickness [m]"] *= thick
        diffusivity = values["Electrolyte diffusivity [m2.s-1]"]
        values["Electrolyte diffusivity [m2.s-1]"] = lambda c, d=diffusivity, by=acid: d(c) * by
        q20 = 17.0 * thick
        for _ in range(6):
            q20 = run(pybamm.lead_acid.Full, values, [(0.05, 1800)], q20, 60)
        for profile, plan in (STEADY | DUTY).items():
            share = run(pybamm.lead_acid.Full, values, plan, q20, hours_of(plan)) / q20
            lines.append(f'{cell},"{profile}","{words(plan)}",{share:.4f}')
            print(lines[-1], flush=True)
    (OUT / "lead-duty-pybamm-26.10.csv").write_text("\n".join(lines) + "\n")


def lfp():
    lines = [
        f"# library: pybamm {pybamm.__version__}; model: DFN, isothermal; parameter set Prada2013, diffusivity in the particles changed",
        "# Ah until 2.5 V is first met under load, over those of the steady 20-hour run; current in multiples of those per hour",
        "cell,profile,current_and_minutes,delivered_share",
    ]
    for cell, slower in LFP.items():
        values = pybamm.ParameterValues("Prada2013")
        values["Lower voltage cut-off [V]"] = 2.5
        for part in ("Negative", "Positive"):
            values[f"{part} particle diffusivity [m2.s-1]"] *= slower
        q20 = 2.3
        for _ in range(4):
            q20 = run(pybamm.lithium_ion.DFN, values, [(0.05, 1800)], q20, 30, 1.0, 2.5)
        for profile, plan in (STEADY | DUTY).items():
            if plan[0][0] < 0.05:
                continue
            share = run(pybamm.lithium_ion.DFN, values, plan, q20, hours_of(plan), 1.0, 2.5) / q20
            lines.append(f'{cell},"{profile}","{words(plan)}",{share:.4f}')
            print(lines[-1], flush=True)
    (OUT / "lfp-slow-pybamm-26.10.csv").write_text("\n".join(lines) + "\n")


def nickel():
    lines = [
        f"# library: pybamm {pybamm.__version__}; model: DFN, isothermal 25 C; parameter sets as published",
        "# Ah until 3.0 V is first met under load, over those of the steady 20-hour run; current in multiples of those per hour",
        "cell,profile,current_and_minutes,delivered_share",
    ]
    for cell in ("Chen2020", "Mohtat2020", "Ecker2015", "NCA_Kim2011"):
        values = pybamm.ParameterValues(cell)
        values["Lower voltage cut-off [V]"] = 3.0
        q20 = values["Nominal cell capacity [A.h]"]
        try:
            for _ in range(4):
                q20 = run(pybamm.lithium_ion.DFN, values, [(0.05, 1800)], q20, 30, 1.0, 3.0)
        except Exception as bad:  # a set that the experiment cannot drive is left out
            print(cell, bad, flush=True)
            continue
        for profile, plan in (STEADY | DUTY).items():
            if plan[0][0] < 0.05:
                continue
            try:
                share = run(pybamm.lithium_ion.DFN, values, plan, q20, hours_of(plan), 1.0, 3.0) / q20
            except Exception as bad:
                print(cell, profile, bad, flush=True)
                continue
            lines.append(f'{cell},"{profile}","{words(plan)}",{share:.4f}')
            print(lines[-1], flush=True)
    (OUT / "nickel-duty-pybamm-26.10.csv").write_text("\n".join(lines) + "\n")


if __name__ == "__main__":
    OUT.mkdir(exist_ok=True)
    lead()
    lfp()
    nickel()

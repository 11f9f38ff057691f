"""Capacity left after years of storage by an LFP ageing model, for crates/core/tests/it/reference.rs.

Needs: pip install blast-lite==1.1.0 (BSD-3-Clause). Run: python storage_fade.py OUTPUT_FOLDER
"""
import pathlib
import sys

import numpy as np

np.trapz = np.trapezoid  # the package still asks for the name that numpy 2 dropped
from blast import models

lines = [
    "# library: BLAST-Lite 1.1.0; model: its 250 Ah prismatic LFP/graphite cell; constant temperature, at rest",
    "soc,T_C,q_1y,q_2y,q_3y,q_5y,q_8y,q_10y,q_15y",
]
years = [1, 2, 3, 5, 8, 10, 15]
for degrees in (10, 25, 40):
    for soc in (1.0, 0.8, 0.5, 0.3):
        cell = models.Lfp_Gr_250AhPrismatic()
        day = np.array([0, 86400.0])
        rest = {"Time_s": day, "SOC": np.full(2, soc), "Temperature_C": np.full(2, float(degrees))}
        cell.simulate_battery_life(rest, threshold_time=15.2, is_constant_input=True)
        t, q = cell.stressors["t_days"], cell.outputs["q"]
        left = [np.interp(365 * y, t, q) for y in years]
        lines.append(f"{soc:.1f},{degrees}," + ",".join(f"{v:.4f}" for v in left))
(pathlib.Path(sys.argv[1]) / "lfp-blastlite-1.1.0-storage.csv").write_text("\n".join(lines) + "\n")

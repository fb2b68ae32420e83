# SPDX-License-Identifier: GPL-3.0-or-later
"""The arithmetic of the sailplane *Marram* as it was while its wing went by travel, written by hand
as straight NumPy for this one model: what its replay costs at the least when nothing is general. It
takes a link that stays up, and gives the same pulses as the engine."""

from __future__ import annotations

from itertools import pairwise
from pathlib import Path

import numpy as np

from hypsos.core.checking.reader import from_json

FRAME = 0.02
DOCUMENT = Path(__file__).with_name("marram-by-travel.model.json")
"""The document of which this is the arithmetic."""
PRESETS = {  # landing, launch, climb, thermal, speed, cruise
    "flap": np.array([4.0, 18.0, 3.0, 8.0, -6.0, 0.0]),
    "aileron": np.array([4.0, 14.0, 3.0, 7.0, -5.0, 0.0]),
    "tail": np.array([1.0, -2.0, 2.0, -1.0, 1.0, 0.0]),
}
FADE_S = np.array([0.3, 0.2, 0.5, 0.8, 0.8, 0.8])
ROLL_RATE = np.array([100.0, 70.0, 80.0, 85.0, 55.0, 80.0])
ROLL_EXPO = np.array([35.0, 30.0, 30.0, 30.0, 45.0, 30.0])
PITCH_RATE = np.array([100.0, 70.0, 70.0, 70.0, 50.0, 70.0])
TO_FLAPS = np.array([20.0, 40.0, 40.0, 55.0, 70.0, 40.0])
CAMBER = np.array([20.0, 20.0, 20.0, 30.0, 20.0, 20.0])
PITCH_TRIM = np.array([0.0, 0.0, 0.0, 1.5, -2.0, 0.0])
YAW_TRIM = np.array([0.0, 0.0, 2.0, 0.0, 0.0, 0.0])


def by_travel():
    """That model."""
    return from_json(DOCUMENT.read_text())


def latch(on, off):
    at = np.maximum.accumulate(np.where(on | off, np.arange(len(on)), -1))
    return (on & ~off)[at] & (at >= 0)


def edge(x):
    out = np.zeros(len(x), bool)
    out[1:] = x[1:] & ~x[:-1]
    return out


def since(x, t):
    return t[np.maximum(np.maximum.accumulate(np.where(x, -1, np.arange(len(x)))) + 1, 0) % len(x)]


def limited(x, step):
    bites = np.flatnonzero(np.abs(np.diff(x)) > step) + 1
    if not bites.size:
        return x
    out, values, done = x.copy(), x.tolist(), 0
    for first in bites.tolist():
        if first < done:
            continue
        y, i = values[first - 1], first
        while i < len(values):
            y = min(max(values[i], y - step), y + step)
            if y == values[i]:
                break
            out[i] = y
            i += 1
        done = i + 1
    return out


def expo(x, k):
    c = k / 100.0
    return x * (1.0 - c + c * x * x)


def four_bar(turn, arm, horn, distance, offset, arm_deg, horn_deg):
    a0, b0 = np.radians(arm_deg), np.radians(horn_deg)
    rod = (arm * np.sin(a0) - distance - horn * np.sin(b0)) ** 2 + (
        arm * np.cos(a0) + offset - horn * np.cos(b0)
    ) ** 2

    def angle(a):
        x, y = arm * np.sin(a) - distance, arm * np.cos(a) + offset
        square = x * x + y * y
        return np.arctan2(x, y), np.arccos((square + horn**2 - rod) / (2 * horn * np.sqrt(square)))

    phi, half = angle(a0)
    sign = 1.0 if abs((phi + half - b0 + np.pi) % (2 * np.pi) - np.pi) < 1e-6 else -1.0
    phi, half = angle(a0 + np.radians(turn))
    return np.degrees((phi + sign * half - b0 + np.pi) % (2 * np.pi) - np.pi)


def marram(t, c):
    """Pulses by lead, and degrees by surface, of the controls ``c`` (arrays over the times
    ``t``)."""
    n = len(t)
    task, flight, turn = (c[k].astype(int) for k in ("task_switch", "flight_switch", "turn_switch"))
    run, snap, tow = (c[k] > 0.5 for k in ("motor_switch", "snap_switch", "tow_button"))
    roll_x, pitch_x, yaw_x = (
        c["aileron_stick"] / 100,
        -c["elevator_stick"] / 100,
        c["rudder_stick"] / 100,
    )
    throttle = c["throttle_stick"]
    # logical switches
    flags = {
        "stick_low": latch(throttle < -90, throttle >= -86),
        "stick_up": latch(throttle > -60, throttle <= -70),
        "brake_stick": latch(throttle < -10, throttle >= -8),
        "pulled": latch(c["elevator_stick"] < -50, c["elevator_stick"] >= -45),
        "circling": latch(np.abs(c["aileron_stick"]) > 30, np.abs(c["aileron_stick"]) <= 25),
        "stick_centred": latch(np.abs(c["aileron_stick"]) <= 8, np.abs(c["aileron_stick"]) > 10),
    }
    over = c["aileron_stick"] - c["elevator_stick"]
    flags["nose_over_roll"] = latch(over > 40, over <= 35)
    circling_long = flags["circling"] & (t - since(flags["circling"], t) >= 3.0 - 1e-9)
    armed = latch(task == 2, task != 2)
    brakes_out = armed & flags["brake_stick"]
    snap_on = snap & ~brakes_out
    wanted = run & flags["stick_up"] & ~armed
    went = wanted.copy()
    went[1:] |= wanted[:-1]
    at = np.maximum.accumulate(np.where(went, np.arange(n), -1))
    climb_on = wanted | ((at >= 0) & (t - t[at] < 0.5 - 1e-9))
    at = np.maximum.accumulate(np.where(edge(wanted), np.arange(n), -1))
    climb_start = (at >= 0) & (t - t[at] < 1.0 - 1e-9)
    flags["tow_gone"] = latch(edge(tow), edge(task == 1))
    flags["tow_count"] = np.cumsum(edge(tow)) % 4 > 0
    camber_free = flight < 2
    flags["one_task"] = (task == 1).astype(int) + (task == 2) + run == 1
    flags["no_motor"] = ~run
    gate = np.where(camber_free, c["camber_slider"], 0.0)
    # flight modes and their fades
    mode = np.select([task == 2, task == 1, climb_on, flight == 1, flight == 2], [0, 1, 2, 3, 4], 5)
    changes = [0, *(np.flatnonzero(np.diff(mode)) + 1).tolist(), n]
    weights = np.eye(6)[mode]
    fading = np.zeros(n, bool)
    now = weights[0]
    for a, b in pairwise(changes[1:]):
        until = min(b, a + int(FADE_S[mode[a]] / FRAME) + 2)
        share = np.clip((t[a:until] - t[a]) / FADE_S[mode[a]], 0.0, 1.0)[:, None]
        weights[a:until] = now + (np.eye(6)[mode[a]] - now) * share
        fading[a:until] = share[:, 0] < 1
        now = weights[b - 1]
    # brakes, and the guard
    brake = limited(
        np.where(armed, np.interp(throttle, [-80.0, -10.0], [100.0, 0.0]), 0.0), 100 * FRAME / 0.4
    )
    low = throttle <= -95
    rested = low & (t - since(low, t) >= 0.5 - 1e-9)
    hold, armed_now = task == 2, edge(run) & low & rested
    armed = (
        latch(armed_now, ~run)
        & ~hold
        & (latch((rested | armed_now) & ~hold, hold) | ~np.logical_or.accumulate(hold))
    )
    lift = limited(np.where(climb_start, 3.0, 0.0), 100 * FRAME)
    crow_tail = np.where(brake > 0, smooth(brake), 0.0)
    thrust_line = np.where(climb_on, 6.0 * np.clip(throttle, 0, 100) / 100, 0.0)
    help_ = np.array([0.0, 0.12, 0.18])[turn]
    less = 1.0 - brake / 100.0
    yaw_plain = 100 * expo(yaw_x, 15.0)
    knob = np.clip(5.0 + (c["snap_knob"] + 100) / 200 * 40.0, 5.0, 45.0)
    snap_share = np.where(snap, knob, 20.0)

    def sums(i, m):
        """The sums without presets in the frames ``i`` as mode ``m`` (an array or one) makes
        them."""
        roll = ROLL_RATE[m] * expo(roll_x[i], ROLL_EXPO[m])
        pitch_plain = PITCH_RATE[m] * expo(pitch_x[i], 25.0)
        pitch, yaw = pitch_plain + PITCH_TRIM[m], yaw_plain[i] + YAW_TRIM[m]
        camber = gate[i] * CAMBER[m] / 100
        camber = np.where(circling_long[i], camber * 0.8, camber) + lift[i]
        pull = np.where(snap_on[i], np.interp(pitch_plain, [10.0, 100.0], [0.0, 100.0]), 0.0) / 100
        b, rest, calm = brake[i], less[i], ~brakes_out[i]
        share = TO_FLAPS[m] / 100
        left, right = roll * share, -roll * share
        left, right = (np.where(x > 0, x * (1 - 0.2 * rest), x) for x in (left, right))
        shared = 0.86 * b + camber + snap_share[i] * pull
        middle = 0.6 * b + camber + snap_share[i] * pull
        aileron = -0.42 * b + 0.8 * camber + 12 * pull
        bent = roll * (1 - 0.35 * rest)
        down = np.where(roll > 0, bent, roll), np.where(roll < 0, -bent, -roll)
        swing = np.where(calm, 0.08 * yaw_plain[i], 0.0)
        tail = -0.55 * pitch + crow_tail[i] - 0.06 * camber + thrust_line[i]
        side = 0.45 * yaw + help_[i] * roll
        motor = throttle[i]
        return np.array(
            [
                shared + left,
                middle + left,
                aileron + down[0] + swing,
                shared + right,
                middle + right,
                aileron + down[1] - swing,
                tail - side,
                tail + side,
                motor,
            ]
        )

    every = sums(slice(None), mode)
    frames = np.flatnonzero(fading)
    blend = np.zeros((9, len(frames)))
    for m in range(6):
        some = weights[frames, m] != 0
        if some.any():
            blend[:, some] += weights[frames[some], m] * sums(frames[some], m)
    every[:, frames] = blend
    w = weights.T
    flap, aileron, tail = (PRESETS[k] @ w for k in ("flap", "aileron", "tail"))
    for rows, preset in (((0, 1, 3, 4), flap), ((2, 5), aileron), ((6, 7), tail)):
        for row in rows:
            every[row] += preset
    # outputs
    names = (
        "left_inner_flap",
        "left_mid_flap",
        "left_aileron",
        "right_inner_flap",
        "right_mid_flap",
        "right_aileron",
        "left_ruddervator",
        "right_ruddervator",
    )
    us, deg = {}, {}
    for row, name in enumerate(names):
        direction = -1.0 if name in ("right_inner_flap", "right_mid_flap") else 1.0
        stops = (-100.0, 110.0) if "inner" in name else (-125.0, 125.0)
        out = np.clip(direction * np.clip(every[row], -150, 150), *stops)
        us[name] = 1500 + 5 * out
        if "aileron" in name or "ruddervator" in name:
            out = limited(out, 100 * FRAME / (0.14 if "aileron" in name else 0.12))
        stand = direction * out
        if "inner" in name:
            deg[name] = four_bar(0.42 * stand, 10, 9, 58, 2, -22, 8)
        elif "ruddervator" in name:
            deg[name] = four_bar(0.42 * stand, 9, 14, 70, 0, 0, 0)
        else:
            deg[name] = np.where(stand < 0, THROWS[name][0], THROWS[name][1]) * stand / 100
    us["motor"] = 1500 + 5 * np.clip(np.where(armed, every[8], -100.0), -100, 150)
    us["motor"] = np.minimum(us["motor"], 1500 + 5 * 125)
    us["tow_release"] = 1500 + 5 * np.where(tow, 100.0, -100.0)
    return us, deg


def smooth(x):
    """Through (0, 0), (50, 5), (100, 7) as a monotone cubic."""
    from scipy.interpolate import PchipInterpolator

    return PchipInterpolator([0.0, 50.0, 100.0], [0.0, 5.0, 7.0])(x)


THROWS: dict[str, tuple[float, float]] = {}
"""Degrees up and down of the surfaces without a linkage; filled in from the model by the bench."""

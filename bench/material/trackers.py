"""Plays tracker modules through libxmp into WAV files, with every note event beside them as JSON.

    python3 bench/material/trackers.py <module> <out without extension> [<samples>]

With samples, places in the module from 0 joined by commas, only these are heard and nothing but the WAV
is written.

The JSON holds [seconds, instrument from 1, sample of the instrument from 0, velocity 0-1] per event,
and {"rows": seconds of every row, "patternRows": places in it where patterns begin}.
Layouts are those of xmp.h, libxmp 4.5.
"""

import ctypes
import json
import sys
import wave


class Event(ctypes.Structure):
    _fields_ = [(name, ctypes.c_ubyte) for name in "note ins vol fxt fxp f2t f2p flag".split()]


class Channel(ctypes.Structure):
    _fields_ = [
        ("period", ctypes.c_uint),
        ("position", ctypes.c_uint),
        ("pitchbend", ctypes.c_short),
        ("note", ctypes.c_ubyte),
        ("instrument", ctypes.c_ubyte),
        ("sample", ctypes.c_ubyte),
        ("volume", ctypes.c_ubyte),
        ("pan", ctypes.c_ubyte),
        ("reserved", ctypes.c_ubyte),
        ("event", Event),
    ]


NUMBERS = "pos pattern row num_rows frame speed bpm time total_time frame_time".split()


class Frame(ctypes.Structure):
    _fields_ = (
        [(name, ctypes.c_int) for name in NUMBERS]
        + [("buffer", ctypes.c_void_p)]
        + [
            (name, ctypes.c_int)
            for name in "buffer_size total_size volume loop_count virt_channels virt_used sequence".split()
        ]
        + [("channels", Channel * 64)]
    )


class Sample(ctypes.Structure):
    _fields_ = (
        [("name", ctypes.c_char * 32)]
        + [(name, ctypes.c_int) for name in "len lps lpe flg".split()]
        + [("data", ctypes.c_void_p)]
    )


class Module(ctypes.Structure):
    _fields_ = (
        [("name", ctypes.c_char * 64), ("type", ctypes.c_char * 64)]
        + [(name, ctypes.c_int) for name in "pat trk chn ins smp spd bpm len rst gvl".split()]
        + [(name, ctypes.c_void_p) for name in "xxp xxt xxi".split()]
        + [("xxs", ctypes.POINTER(Sample))]
    )


class ModuleInfo(ctypes.Structure):
    _fields_ = [("md5", ctypes.c_ubyte * 16), ("vol_base", ctypes.c_int), ("mod", ctypes.POINTER(Module))]


RATE = 44100
MIX_PARAMETER, MIX = 1, 60
# Effects that bend a sounding note in place of striking it.
PORTAMENTI = {3, 5, 0x7A}

xmp = ctypes.CDLL("libxmp.so.4")
xmp.xmp_create_context.restype = ctypes.c_void_p
player = ctypes.c_void_p(xmp.xmp_create_context())


def silence_others(kept):
    info = ModuleInfo()
    xmp.xmp_get_module_info(player, ctypes.byref(info))
    module = info.mod.contents
    for place in range(module.smp):
        sample = module.xxs[place]
        if place not in kept and sample.data:
            ctypes.memset(sample.data, 0, sample.len * (2 if sample.flg & 1 else 1))


def play(module, out, kept=None):
    if xmp.xmp_load_module(player, module.encode()) != 0:
        raise SystemExit(f"{module} cannot be read")
    if kept is not None:
        silence_others(kept)
    xmp.xmp_start_player(player, RATE, 0)
    xmp.xmp_set_player(player, MIX_PARAMETER, MIX)
    frame = Frame()
    frames = 0
    events, rows, pattern_rows = [], [], []
    with wave.open(out + ".wav", "wb") as sound:
        sound.setnchannels(2)
        sound.setsampwidth(2)
        sound.setframerate(RATE)
        while xmp.xmp_play_frame(player) == 0:
            xmp.xmp_get_frame_info(player, ctypes.byref(frame))
            if frame.loop_count > 0 or frames > 480 * RATE:
                break
            time = frames / RATE
            if frame.frame == 0:
                if frame.row == 0:
                    pattern_rows.append(len(rows))
                rows.append(round(time, 5))
                for channel in frame.channels[: frame.virt_channels]:
                    event = channel.event
                    struck = 0 < event.note < 0x80 and not {event.fxt, event.f2t} & PORTAMENTI
                    if struck and channel.volume > 0 and channel.instrument < 255:
                        events.append(
                            [round(time, 5), channel.instrument + 1, channel.sample, channel.volume / 64]
                        )
            sound.writeframes(ctypes.string_at(frame.buffer, frame.buffer_size))
            frames += frame.buffer_size // 4
    xmp.xmp_end_player(player)
    xmp.xmp_release_module(player)
    if kept is not None:
        return
    with open(out + ".json", "w") as text:
        json.dump({"events": events, "rows": rows, "patternRows": pattern_rows}, text)


play(sys.argv[1], sys.argv[2], {int(own) for own in sys.argv[3].split(",")} if len(sys.argv) > 3 else None)

"""Instruments over SCPI: the dialogue by IEEE 488.2, the bench in front of a true car, meters that misbehave."""

from __future__ import annotations

import socket
import threading
import time
from collections.abc import Callable, Iterator

import pytest

from ohmack.core.document import Design
from ohmack.core.document.proof import Fault, FaultKind
from ohmack.core.evaluation.door import evaluate
from ohmack.core.prove.checks import Check
from ohmack.core.prove.plan_of_proof import plan_of_proof
from ohmack.core.prove.probes import Quantity, take
from ohmack.core.prove.windows import meter_sigma
from ohmack.instruments.address import Address, NoInstrument, read_address
from ohmack.instruments.bench import bench
from ohmack.instruments.device import Device
from ohmack.instruments.running import RunningBench
from ohmack.instruments.scpi import hush, identify, opened, play, read
from ohmack.instruments.taking import OnTheBench, take_from
from ohmack.instruments.true_car import LEADS_OHM, true_car


@pytest.fixture(scope="module")
def ports() -> Iterator[list[int]]:
    running = RunningBench(0)
    yield running.start()
    running.stop()


@pytest.fixture
def meter(ports: list[int]) -> Address:
    return Address("127.0.0.1", ports[0])


def checks(design: Design) -> dict[str, Check]:
    return {c.id: c for c in plan_of_proof(evaluate(design).results)}


# -- IEEE 488.2 -----------------------------------------------------------------------------------------------------


def test_common_commands_answer_as_the_standard_says() -> None:
    """Outside check: IEEE 488.2-1992, 10.14 (*IDN?, four fields), 10.19 (*OPC?, an ASCII 1), 10.3 (*CLS), 10.12
    (*ESR? reads and clears), 11.2 (status byte: bit 5 sums enabled events), SCPI 1999.0 21.8 (error queue, 0 when
    empty, first in first out); all from memory.
    """
    device = Device("Maker,Model,0001,1.0")
    assert device.hear("*IDN?") == "Maker,Model,0001,1.0"
    assert len(str(device.hear("*idn?")).split(",")) == 4, "headers are read in either case"
    assert device.hear("*OPC?") == "1"
    assert device.hear("*OPC") is None
    assert device.hear("*ESR?") == "1"
    assert device.hear("*ESR?") == "0"
    assert device.hear("SYST:ERR?") == '0,"No error"'
    assert device.hear("WHAT:IS:THIS 3") is None
    assert device.hear("*ESE 32;*STB?") == "36", "a command error, enabled, and an entry in the queue"
    assert device.hear("SYSTem:ERRor?") == '-113,"Undefined header"'
    assert device.hear("SYST:ERR?") == '0,"No error"'
    device.hear("nonsense;more nonsense")
    device.hear("*CLS")
    assert device.hear("SYST:ERR?;*ESR?") == '0,"No error";0'
    for _ in range(40):
        device.hear("BAD")
    seen = [str(device.hear("SYST:ERR?")) for _ in range(21)]
    assert seen[19].startswith("-350"), "a queue that is full says so"
    assert seen[20].startswith("0")


def test_long_and_short_headers_and_several_messages_on_a_line() -> None:
    _, _, source = bench()
    assert source.hear("SOUR:FREQ 50;SOURce:LEVel -5;OUTP ON;:SOUR:FREQ?;OUTPUT?") == "+5.000000E+01;1"
    assert source.hear("SOUR:FREQ 5;SYST:ERR?") == '-200,"Execution error; between 10 Hz and 40 kHz"'
    assert source.hear("OUTP MAYBE;SYST:ERR?") is not None
    assert source.hear("*RST;OUTP?;SOUR:FREQ?") == "0;+1.000000E+03"


def test_a_bench_without_a_car_says_so() -> None:
    meter, _, _ = bench()
    assert meter.hear("MEAS:VOLT:DC?") is None
    assert "no car stands" in str(meter.hear("SYST:ERR?"))
    assert meter.hear('BENC:PROB "not json"') is None
    assert str(meter.hear("SYST:ERR?")).startswith("-200")
    assert meter.hear("BENC:CAR 17") is None
    assert "quoted string" in str(meter.hear("SYST:ERR?"))


# -- the bench ------------------------------------------------------------------------------------------------------


def test_an_instrument_says_who_it_is(ports: list[int]) -> None:
    models = [identify(Address("127.0.0.1", port)).model for port in ports]
    assert models == ["Bench multimeter", "Bench analyser", "Bench source"]


def test_readings_over_the_line_are_those_of_the_true_car(meter: Address, estate: Design) -> None:
    """What comes back lies within a meter's error of what the hidden car shows; ohms have the leads in them."""
    hidden = (Fault(id="h", kind=FaultKind.BAD_GROUND, at="ground-amp/end", by=0.05),)
    car = true_car(estate, 9, hidden)
    stands = OnTheBench(estate, 9, hidden)
    for name in ("live/amp/amp/running", "level/drop/amp", "dead/pair/amp", "live/idle/amp", "level/out/amp"):
        check = checks(estate)[name]
        there, said = take(car, check.probe), take_from(meter, check, stands)
        assert there is not None
        assert there.value is not None
        assert said.value is not None
        leads = LEADS_OHM if check.probe.quantity is Quantity.OHM else 0.0
        assert said.leads_ohm == pytest.approx(leads)
        room = 5 * meter_sigma(check.probe.quantity, there.value) + 0.4 * leads + 1e-3 * there.value
        assert said.value == pytest.approx(there.value + leads, abs=room), name
    planned = take(evaluate(estate).results.car, checks(estate)["level/drop/amp"].probe)
    assert planned is not None
    assert planned.value is not None
    drop = take_from(meter, checks(estate)["level/drop/amp"], stands).value
    assert drop is not None
    assert drop > 5 * planned.value, "the bad ground is in it"
    assert take_from(meter, checks(estate)["dead/loose/amp"], stands).over
    assert take_from(meter, checks(estate)["live/whine"], stands).passed is False
    assert take_from(meter, checks(estate)["live/whine"], OnTheBench(estate, 9)).passed is True


def test_the_analyser_reads_harmonics(ports: list[int], estate: Design) -> None:
    hidden = (Fault(id="h", kind=FaultKind.WRONG_GAIN, at="amp", by=8.0),)
    stands = OnTheBench(estate, 3, hidden)
    take_from(Address("127.0.0.1", ports[0]), checks(estate)["level/out/amp"], stands)  # the same car, the same point
    with opened(Address("127.0.0.1", ports[1])) as session:
        shown = read(session, Quantity.DISTORTION)
    assert shown.value is not None
    assert 20 < shown.value < 40, "8 dB over: far into clipping"


def test_the_source_plays_the_tone_a_level_is_read_with(ports: list[int]) -> None:
    source = Address("127.0.0.1", ports[2])
    play(source, 50.0, -5.0)
    with opened(source) as session:
        asked = session.ask("SOUR:FREQ?;SOUR:LEV?;OUTP?").split(";")
    assert [float(a) for a in asked] == [50.0, -5.0, 1.0]
    with pytest.raises(NoInstrument, match="does not play that"):
        play(source, 3.0, 0.0)
    hush(source)
    with opened(source) as session:
        assert session.ask("OUTP?") == "0"


# -- meters that misbehave ------------------------------------------------------------------------------------------


def a_meter(talk: Callable[[socket.socket], None]) -> Address:
    """A listener that does what it is told to with the first who calls."""
    listener = socket.create_server(("127.0.0.1", 0))

    def serve() -> None:
        with listener, listener.accept()[0] as line:
            talk(line)

    threading.Thread(target=serve, daemon=True).start()
    return Address("127.0.0.1", listener.getsockname()[1])


def answering(*answers: bytes) -> Callable[[socket.socket], None]:
    def talk(line: socket.socket) -> None:
        for answer in answers:
            if not line.recv(4000):
                return
            line.sendall(answer)
        line.recv(4000)

    return talk


def test_nothing_there(estate: Design) -> None:
    with pytest.raises(NoInstrument, match=r"Nothing answers at 127\.0\.0\.1:1"):
        identify(Address("127.0.0.1", 1), 500)


def test_a_meter_that_answers_slowly_is_not_waited_for() -> None:
    def slow(line: socket.socket) -> None:
        line.recv(4000)
        time.sleep(3)

    begun = time.monotonic()
    with pytest.raises(NoInstrument, match=r"gave no answer in 0\.4 s"):
        identify(a_meter(slow), 400)
    assert time.monotonic() - begun < 2.5, "never a hung page"


def test_a_meter_that_hangs_up_half_way() -> None:
    def hang_up(line: socket.socket) -> None:
        line.recv(4000)
        line.sendall(b"Mak")

    with pytest.raises(NoInstrument, match=r"dropped half way|gave no answer"):
        identify(a_meter(hang_up), 800)


@pytest.mark.parametrize(
    ("answer", "words"),
    [
        (b"HTTP/1.1 400 Bad Request\r\n", "not as an instrument"), (b"\xff\xfe\x00garbage\n", "nonsense|not as an"),
        (b",,,\n", "not as an instrument"),
    ],
)  # fmt: skip
def test_garbage_is_no_instrument(answer: bytes, words: str) -> None:
    with pytest.raises(NoInstrument, match=words):
        identify(a_meter(answering(answer)), 800)


@pytest.mark.parametrize(
    ("answer", "words"), [(b"12,4 volts\n", "no number"), (b"NaN\n", "no value yet"), (b"\n", "no number")]
)
def test_a_reading_that_is_none(answer: bytes, words: str, estate: Design) -> None:
    address = a_meter(answering(b"Acme,Model 1,7,2\n", answer))
    with pytest.raises(NoInstrument, match=words):
        take_from(address, checks(estate)["live/amp/amp/running"], OnTheBench(estate))


def test_a_real_meter_is_asked_no_questions_of_the_bench(estate: Design) -> None:
    """A foreign meter is only asked to measure; millivolts come from its volts; what it cannot see it is not asked."""
    heard: list[bytes] = []

    def talk(line: socket.socket) -> None:
        for answer in (b"Acme,Model 1,7,2\n", b"+1.120E-01\n"):
            heard.append(line.recv(4000))
            line.sendall(answer)
        line.recv(4000)

    said = take_from(a_meter(talk), checks(estate)["level/drop/amp"], OnTheBench(estate))
    assert (said.instrument, said.value) == ("Acme Model 1", pytest.approx(112.0))
    assert heard == [b"*IDN?\n", b"MEASure:VOLTage:DC?\n"]
    with pytest.raises(NoInstrument, match="look, and say what you see"):
        take_from(a_meter(answering(b"Acme,Model 1,7,2\n")), checks(estate)["live/lamps"], OnTheBench(estate))
    over = take_from(a_meter(answering(b"Acme,M,7,2\n", b"9.9E37\n", b'0,"No error"\n')),
                     checks(estate)["dead/loose/amp"], OnTheBench(estate))  # fmt: skip
    assert over.over


@pytest.mark.parametrize(
    "typed", ["", "bench", "bench:", "bench:99999", "http://bench:5025", "GPIB0::7::INSTR", "a b:1"]
)
def test_an_address_that_is_none_is_refused(typed: str) -> None:
    with pytest.raises(NoInstrument, match="host:port"):
        read_address(typed)

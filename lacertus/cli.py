"""The command line: the same core and services, with no browser."""

from __future__ import annotations

import gc
import json
import os
import sys
from dataclasses import asdict
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer
from rich.console import Console
from rich.progress import Progress
from rich.table import Table

from lacertus.commands.backup import backup, backup_key, restore
from lacertus.commands.plan import plan_app
from lacertus.core.errors import BadInput, BadRep, BadTechnique, LacertusError

if TYPE_CHECKING:
    from lacertus.core.measuring.body import BodyName
    from lacertus.core.measuring.repfile import Body, RepFile
    from lacertus.core.review.judgement import Judgement
    from lacertus.core.techniques.definition import Technique
    from lacertus.jsonfile import JsonLimits
    from lacertus.ledgerfile import Found
    from lacertus.services.people.links import Made


def _rep_limits() -> JsonLimits:
    """For one’s own files on one’s own machine: a truth holds every landmark in every frame."""
    from lacertus.jsonfile import JsonLimits

    return JsonLimits(most_bytes=200_000_000, most_values=20_000_000)


app = typer.Typer(add_completion=False, pretty_exceptions_enable=False, help=__doc__)
clip_app = typer.Typer(help="Read video files.")
technique_app = typer.Typer(help="Check, list and print techniques.")
studio_app = typer.Typer(help="Synthetic clips with known truth.")
export_app = typer.Typer(help="Write out what belongs to someone.")
import_app = typer.Typer(help="Bring in what was written out.")
db_app = typer.Typer(help="Look after the database.")
academy_app = typer.Typer(help="Set up an academy, or run one on this machine.")
account_app = typer.Typer(help="Let people in.")
app.add_typer(clip_app, name="clip")
app.add_typer(technique_app, name="technique")
app.add_typer(studio_app, name="studio")
app.add_typer(export_app, name="export")
app.add_typer(import_app, name="import")
app.add_typer(db_app, name="db")
app.add_typer(academy_app, name="academy")
app.add_typer(account_app, name="account")
app.add_typer(plan_app, name="plan")
for command in (backup, backup_key, restore):
    app.command(command.__name__.replace("_", "-"))(command)


@app.callback(invoke_without_command=True)
def _without_command(context: typer.Context) -> None:
    if context.invoked_subcommand is None:
        typer.echo(context.get_help())


AsJson = Annotated[bool, typer.Option("--json", help="Print JSON.")]


def main() -> None:
    """Run a command: 0 done, 2 bad input with one line on stderr, 1 anything else."""
    try:
        sys.exit(app(standalone_mode=False))
    except typer.TyperException as error:
        _fail(f"{error.format_message()} (--help tells more)", 2)
    except (typer.Abort, KeyboardInterrupt):
        _fail("stopped", 1)
    except BadInput as error:
        _fail(str(error), 2)
    except LacertusError as error:
        _fail(str(error), 1)
    except BrokenPipeError:
        sys.exit(1)
    except Exception as error:  # noqa: BLE001 (the outermost place: whatever it is ends in one line and code 1)
        _fail(f"something went wrong inside Lacertus ({type(error).__name__}: {error})", 1)


def _fail(message: str, code: int) -> None:
    print("lacertus: " + " ".join(message.split()), file=sys.stderr)
    sys.exit(code)


def _print_json(data: Any) -> None:
    print(json.dumps(data, ensure_ascii=False))


@clip_app.command("inspect")
def clip_inspect(file: Path, as_json: AsJson = False) -> None:
    """Read a video: codec, displayed size, rotation, and every frame's own time."""
    from lacertus.video.inspect import inspect_clip

    with Progress(console=Console(stderr=True), transient=True, disable=not sys.stderr.isatty()) as bar:
        task = bar.add_task("reading", total=None)
        facts = inspect_clip(file, lambda done, total: bar.update(task, completed=done, total=total))
    if as_json:
        _print_json({key: value for key, value in asdict(facts).items() if key != "mirrored"})
        return
    rate = "variable" if facts.variable_rate else "constant"
    mirrored = ", mirrored" if facts.mirrored else ""
    typer.echo(
        f"{file.name}: {facts.codec}, {facts.width}×{facts.height}, {facts.frames} frames, "
        f"{facts.duration_s:.3f} s, {facts.nominal_fps:g} fps {rate}, turned {facts.rotation}°{mirrored}"
    )


@app.command()
def judge(
    reps: Annotated[list[Path], typer.Argument(help="Rep files, or folders of them.")],
    technique: Annotated[Path | None, typer.Option(help="Judge by this technique file.")] = None,
    as_json: AsJson = False,
) -> None:
    """Judge a rep, or several as a set."""
    from lacertus.core.progress.fix_first import Group, fix_first_of
    from lacertus.core.review.views.tied import judge_reps
    from lacertus.library import load_technique, shipped_technique

    given = load_technique(technique) if technique else None
    files = [file for path in reps for file in _rep_files(path)]
    read = [_load_rep(file) for file in files]
    techniques = [given or shipped_technique(rep.technique) for rep in read]
    judged = judge_reps(techniques, read)
    groups = [Group(technique=one, reps=own) for one, own in _by_technique(techniques, read, judged)]
    fixes = [asdict(fix) for fix in fix_first_of(groups)]
    if as_json:
        found = [_rep_dict(*one) for one in zip(techniques, read, judged, strict=True)]
        over = [_as_dict(judgement) for group in _sets(techniques, read, judged) for judgement in group]
        _print_json({"reps": found, "set": over, "fix_first": fixes})
        return
    for file, rep_judgements in zip(files, judged, strict=True):
        Console().print(_table(file.name, rep_judgements))
    for group in _sets(techniques, read, judged):
        if group:
            Console().print(_table("over all reps", group))


def _rep_dict(technique: Technique, rep: RepFile, judged: tuple[Judgement, ...]) -> dict[str, Any]:
    from lacertus.core.measuring.scene import Scene
    from lacertus.core.review.choice import choice_of
    from lacertus.core.review.reactions import reacted
    from lacertus.core.techniques.reaction import Reaction

    choice = choice_of(technique, judged)
    return {
        "choice": None if choice is None else choice.value,
        "reactions": [asdict(row) | {"verdict": row.verdict.value} for row in reacted(technique, rep, Scene(rep, technique.edges))],
        "checkpoints": [_as_dict(judgement) for judgement in judged if judgement.kind != Reaction.kind],
    }


def _rep_files(path: Path) -> list[Path]:
    if not path.is_dir():
        return [path]
    files = sorted(path.glob("*.json"))
    if not files:
        raise BadRep(f"{path} holds no rep files (*.json)")
    return files


def _load_rep(path: Path) -> RepFile:
    from lacertus.core.measuring.repfile import read_rep

    return read_rep(_read_json(path), path.name)


def _read_json(path: Path) -> Any:
    from lacertus.jsonfile import parse_json

    try:
        if path.stat().st_size > _rep_limits().most_bytes:
            raise BadRep(f"{path.name} is larger than a rep file may be ({_rep_limits().most_bytes // 1_000_000} MB)")
        return parse_json(path.read_bytes(), path.name, _rep_limits())
    except OSError as error:
        raise BadRep(f"{path} cannot be read: {error.strerror or error}") from error


def _by_technique(
    techniques: list[Technique], reps: list[RepFile], judged: tuple[tuple[Judgement, ...], ...]
) -> list[tuple[Technique, list[tuple[Judgement, ...]]]]:
    """The judged reps of each technique; demonstrations never count."""
    groups: dict[str, tuple[Technique, list[tuple[Judgement, ...]]]] = {}
    for technique, rep, judgements in zip(techniques, reps, judged, strict=True):
        if rep.purpose != "demonstration":
            groups.setdefault(technique.id, (technique, []))[1].append(judgements)
    return list(groups.values())


def _sets(
    techniques: list[Technique], reps: list[RepFile], judged: tuple[tuple[Judgement, ...], ...]
) -> list[tuple[Judgement, ...]]:
    """What the reps of each technique show together."""
    from lacertus.core.review.rep_set import judge_set

    groups: dict[str, list[int]] = {}
    for i, technique in enumerate(techniques):
        groups.setdefault(technique.id, []).append(i)
    return [judge_set(techniques[g[0]], [reps[i] for i in g], [judged[i] for i in g]) for g in groups.values()]


def _as_dict(judgement: Judgement) -> dict[str, Any]:
    """The keys of the format; what to know of a reading (a lean, a guessed joint) stands in `reason` too."""
    reason = "; ".join(part for part in (judgement.reason, *judgement.notes) if part)
    return asdict(judgement) | {"verdict": judgement.verdict.value, "reason": reason or None}


def _table(title: str, judgements: tuple[Judgement, ...]) -> Table:
    table = Table("checkpoint", "verdict", "value", "± u", "unit", "frames", "reason", title=title)
    for j in judgements:
        value = "" if j.value is None else f"{j.value:.3g}"
        u = "" if j.uncertainty is None else f"{j.uncertainty:.2g}"
        frames = " ".join(str(frame) for frame in j.frames)
        table.add_row(j.id, j.verdict.value.replace("_", " "), value, u, j.unit or "", frames, j.reason or "")
    return table


@app.command()
def ledger(
    file: Path,
    on: Annotated[str | None, typer.Option("--on", metavar="DATE", help="Look from this day, not from the last session's.")] = None,
    as_json: AsJson = False,
) -> None:
    """The fault ledger of a CSV of judgements: what keeps coming back, and when to look again."""
    from lacertus.ledgerfile import families, ledgers, read_ledger

    rows, day = read_ledger(file), _day(on)
    found = ledgers(rows, day)
    if as_json:
        over = [_ledger_dict(one) for one in families(rows, day)]
        _print_json({"faults": [_ledger_dict(one) for one in found], "families": over})
        return
    table = Table("student", "technique", "fault", "misses", "rate", "95 %", "state", "recheck")
    for one in found:
        told = one.ledger
        low, high = told.interval
        recheck = date.fromordinal(told.recheck).isoformat() if told.recheck else "–"
        share, between = f"{100 * told.rate:.0f} %", f"{100 * low:.0f}–{100 * high:.0f} %"
        table.add_row(
            one.student, one.technique, one.fault, f"{told.misses} of {told.exposures}", share, between, told.state.value, recheck
        )
    Console().print(table)


def _day(text: str | None) -> date | None:
    try:
        return None if text is None else date.fromisoformat(text)
    except ValueError as error:
        raise BadInput(f"“{text}” is not a date such as 2026-05-04") from error


def _ledger_dict(found: Found) -> dict[str, Any]:
    told = found.ledger
    return {
        "student": found.student,
        "technique": found.technique,
        "fault": found.fault,
        "family": found.family,
        "exposures": told.exposures,
        "misses": told.misses,
        "rate": told.rate,
        "interval": list(told.interval),
        "recurrence": told.recurrence,
        "state": told.state.value,
        "history": [
            {
                "date": date.fromordinal(entry.day).isoformat(),
                "exposures": entry.exposures,
                "misses": entry.misses,
                "state": entry.state.value,
            }
            for entry in told.history
        ],
        "recheck": None if told.recheck is None else date.fromordinal(told.recheck).isoformat(),
    }


@app.command()
def track(
    clip: Path,
    points: Annotated[Path, typer.Option("--points", help="JSON: a rep file's `bodies` object.")],
    first: Annotated[int, typer.Option("--from", min=0, help="A frame of the clip, from 0.")],
    last: Annotated[int, typer.Option("--to", min=0, help="The frame at the other end.")],
    as_json: AsJson = False,
) -> None:
    """Track points through a clip by optical flow."""
    from lacertus.video.tracking.points import track_points

    found, lost = track_points(clip, _load_bodies(points), first, last)
    for entry in lost:
        print(f"lacertus: {entry}", file=sys.stderr)
    if as_json:
        _print_json({body: data.model_dump(mode="json", exclude_unset=True) for body, data in found.items()})
        return
    table = Table("body", "landmark", "frames", "largest σ, px")
    for body, data in found.items():
        for landmark, entries in data.landmarks.items():
            largest = max((entry.sigma or 0.0 for entry in entries), default=0.0)
            table.add_row(body, landmark, f"{len(entries)}", f"{largest:.1f}")
    Console().print(table)


def _load_bodies(path: Path) -> dict[BodyName, Body]:
    from lacertus.core.measuring.body import BodyName
    from lacertus.core.measuring.repfile import Body
    from lacertus.core.model import problems_of

    data = _read_json(path)
    from pydantic import TypeAdapter, ValidationError

    try:
        return TypeAdapter(dict[BodyName, Body]).validate_python(data)
    except ValidationError as error:
        raise BadInput(f"{path.name}: " + "; ".join(str(problem) for problem in problems_of(error))) from error


@technique_app.command("check")
def technique_check(file: Path, as_json: AsJson = False) -> None:
    """Check a technique file: every problem with its path and line."""
    from lacertus.library import check_file

    try:
        technique = check_file(file)
    except BadTechnique as error:
        if as_json:
            _print_json({"problems": [{"path": list(p.path), "line": p.line, "message": p.message} for p in error.problems]})
        raise
    found = {"id": technique.id, "checkpoints": len(technique.checkpoints), "problems": []}
    _print_json(found) if as_json else typer.echo(f"{technique.id}: {len(technique.checkpoints)} checkpoints, no problems")


@technique_app.command("list")
def technique_list(as_json: AsJson = False) -> None:
    """List the shipped techniques."""
    from lacertus.yamlfile import parse_own

    # They ship checked, so that a list of them need not build each.
    told = [parse_own(path) for path in sorted((Path(__file__).parent / "library" / "techniques").glob("*.yaml"))]
    rows = [{"id": one["id"], "name": one["names"]["main"], "family": one["family"]} for one in told]
    if as_json:
        _print_json(rows)
        return
    for row in rows:
        typer.echo(f"{row['id']:28} {row['family']:16} {row['name']}")


@technique_app.command("show")
def technique_show(technique_id: str, as_json: AsJson = False) -> None:
    """Print a shipped technique."""
    from lacertus.library import shipped_technique

    data = shipped_technique(technique_id).model_dump(mode="json", by_alias=True, exclude_defaults=True)
    _print_json(data) if as_json else typer.echo(json.dumps(data, ensure_ascii=False, indent=2))


@studio_app.command("list")
def studio_list(as_json: AsJson = False) -> None:
    """List the shipped scripts."""
    from lacertus.studio.script import shipped_scripts

    rows = [
        {"id": script.id, "path": str(path), "technique": script.technique, "faults": list(script.faults)}
        for path, script in shipped_scripts()
    ]
    if as_json:
        _print_json(rows)
        return
    for row in rows:
        typer.echo(f"{row['id']:32} {row['technique']:24} {', '.join(row['faults']) or 'no fault'}")


@studio_app.command("render")
def studio_render(
    script: Path,
    out: Annotated[Path, typer.Option(help="Folder for clip.mp4 and truth.json.")],
    as_json: AsJson = False,
) -> None:
    """Render a script: a clip, and the truth of every frame."""
    from lacertus.studio.script import load_script

    read = load_script(script)
    # Imported late: compiling the renderer's loops takes a moment, and a bad script needs none of it.
    from lacertus.studio.clips import render

    with Progress(console=Console(stderr=True), transient=True, disable=not sys.stderr.isatty()) as bar:
        task = bar.add_task("filming", total=None)
        files = render(read, out, lambda done, total: bar.update(task, completed=done, total=total))
    found = {"id": read.id, "files": [str(path) for path in files]}
    _print_json(found) if as_json else typer.echo("\n".join(str(path) for path in files))


@db_app.command("upgrade")
def db_upgrade(as_json: AsJson = False) -> None:
    """Bring the database's schema up to date."""
    from lacertus.store import upgrade

    upgrade.upgrade()
    _print_json({"upgraded": True}) if as_json else typer.echo("The database is up to date.")


@export_app.command("student")
def export_student(
    student: Annotated[str, typer.Argument(metavar="ID")],
    out: Annotated[Path | None, typer.Option(help="The ZIP file to write; student-ID.zip unless given.")] = None,
    as_json: AsJson = False,
) -> None:
    """Write a student's everything into a ZIP: clips, reviews, marks, verdicts, sheets."""
    from lacertus.services.transfer import student_out
    from lacertus.store import database

    target = out or Path(f"student-{student}.zip")
    part = target.with_name(target.name + ".part")
    try:
        with database.session() as db:
            found = student_out.find(db, student)
            student_out.write(db, found.academy_id, found.id, part)
        # Films of people, maybe of minors: for the owner's eyes, as a backup is.
        part.chmod(0o600)
        part.replace(target)
    except OSError as error:
        raise LacertusError(f"{target} could not be written: {error.strerror or error}") from error
    finally:
        part.unlink(missing_ok=True)
    _print_json({"student": found.name, "file": str(target)}) if as_json else typer.echo(str(target))


@import_app.command("student")
def import_student(
    file: Path,
    academy: Annotated[str | None, typer.Option(help="Name of the academy, where there are several.")] = None,
    as_json: AsJson = False,
) -> None:
    """Import a student's ZIP under new ids; the worker processes its clips again."""
    from lacertus.services.people import accounts
    from lacertus.services.transfer import student_in
    from lacertus.store import database
    from lacertus.store.private import keep_private

    keep_private()
    with database.session() as db:
        student, clips = student_in.read(db, accounts.academy_named(db, academy), file)
        told = {"id": str(student.id), "name": student.name, "clips": len(clips)}
    _print_json(told) if as_json else typer.echo(f"{told['name']}: {told['id']}")


def _say(line: str) -> None:
    print(line, file=sys.stderr, flush=True)


@app.command()
def serve(
    host: str = "127.0.0.1",
    port: int = 8000,
    ssl_key: Annotated[Path | None, typer.Option(help="Speak TLS, with this key (PEM).")] = None,
    ssl_certificate: Annotated[Path | None, typer.Option(help="The key’s certificate (PEM).")] = None,
    as_json: AsJson = False,
) -> None:
    """Run the web server. Its log is JSON lines in either case."""
    if (ssl_key is None) != (ssl_certificate is None):
        raise BadInput("TLS needs both --ssl-key and --ssl-certificate")
    # What is imported stays for ever: looking for garbage in it meanwhile costs a tenth of the start.
    gc.disable()
    import uvicorn

    from lacertus.logs import configure_logs
    from lacertus.settings import settings
    from lacertus.store.private import keep_private

    configure_logs()
    keep_private()
    proxies = settings().trusted_proxies
    uvicorn.run(
        "lacertus.web.app:create_app",
        factory=True,
        host=host,
        port=port,
        log_config=None,
        server_header=False,
        ssl_keyfile=ssl_key,
        ssl_certfile=ssl_certificate,
        # Whoever asks in the name of another may say anything: only a proxy that is named is believed.
        proxy_headers=bool(proxies),
        forwarded_allow_ips=proxies or None,
        ws_max_size=64_000,
        timeout_keep_alive=10,
    )


@app.command()
def worker(as_json: AsJson = False) -> None:
    """Run a worker that reads clips and draws pictures. Its log is JSON lines in either case."""
    from lacertus.jobs.worker import run_worker
    from lacertus.logs import configure_logs
    from lacertus.store.private import keep_private

    configure_logs()
    keep_private()
    run_worker()


@app.command()
def demo(port: Annotated[int | None, typer.Option(help="Port; a free one unless given.")] = None, as_json: AsJson = False) -> None:
    """Run the invented academy on this machine: database, worker and server."""
    from lacertus.local.demo import run

    run(
        Path(__file__).resolve().parent.parent,
        port,
        lambda line: print(line, file=sys.stderr if as_json else sys.stdout, flush=True),
        as_json,
    )


@academy_app.command("run")
def academy_run(
    data: Annotated[Path | None, typer.Option(help="Its folder; ~/.local/share/lacertus unless given.")] = None,
    port: Annotated[int | None, typer.Option(min=1, max=65535, help="Port; a free one unless given.")] = None,
    lan: Annotated[bool, typer.Option("--lan", help="Let phones in the hall reach it, by TLS.")] = False,
    as_json: AsJson = False,
) -> None:
    """Run an academy of your own on this machine: database, worker and server."""
    from lacertus.local.own_academy import run

    folder = data or Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share") / "lacertus"
    try:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    except OSError as error:
        raise BadInput(f"{folder} cannot be made: {error.strerror or error}") from error
    run(
        Path(__file__).resolve().parent.parent,
        folder,
        port,
        lan,
        lambda line: print(line, file=sys.stderr if as_json else sys.stdout, flush=True),
        as_json,
    )


Site = Annotated[str, typer.Option(help="Where the site is reached; LACERTUS_PUBLIC_URL unless given.")]


@academy_app.command("create")
def academy_create(site: Site = "", as_json: AsJson = False) -> None:
    """Make a link by which an owner sets up a new academy, once, within a day."""
    from lacertus.services.people import links
    from lacertus.store import database

    with database.session() as db:
        made = links.setup(db)
    _tell_link(made, site, as_json)


@account_app.command("invite")
def account_invite(
    email: str,
    name: str,
    role: Annotated[str, typer.Option(help="owner, coach or assistant.")] = "coach",
    academy: Annotated[str | None, typer.Option(help="Name of the academy, where there are several.")] = None,
    site: Site = "",
    as_json: AsJson = False,
) -> None:
    """Make a link by which somebody joins an academy, once, within a week."""
    from lacertus.services.people import accounts, links
    from lacertus.store import database

    with database.session() as db:
        made = links.invite(db, accounts.academy_named(db, academy), email, name, role)
    _tell_link(made, site, as_json)


@account_app.command("reset")
def account_reset(email: str, site: Site = "", as_json: AsJson = False) -> None:
    """Make a link by which somebody chooses a new password, once, within two hours."""
    from lacertus.services.people import links
    from lacertus.store import database

    with database.session() as db:
        made = links.reset_asked(db, email)
    if made is None:
        raise BadInput(f"nobody has an account with the e-mail {email}")
    _tell_link(made, site, as_json)


def _tell_link(made: Made, site: str, as_json: bool) -> None:
    from lacertus.services.people import account_mail
    from lacertus.settings import settings

    address = account_mail.page_of((site or settings().public_url or "http://127.0.0.1:8000").rstrip("/"), made)
    until = made.link.expires_at.isoformat(timespec="seconds")
    _print_json({"link": address, "expires_at": until}) if as_json else typer.echo(f"{address}\nIt works once, until {until}.")


if __name__ == "__main__":
    main()

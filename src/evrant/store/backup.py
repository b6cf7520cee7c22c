"""Everything in one file and back, by PostgreSQL's own tools (pg_dump and pg_restore, custom format)."""

import os
import subprocess
import tempfile
from pathlib import Path
from urllib.parse import unquote, urlsplit

from sqlalchemy import Engine, text

from evrant.store.cluster import ClusterFault, find_binaries

MAGIC = b"PGDMP"


def backup(url: str, file: Path) -> int:
    """Write the whole database to a file that only its owner may read; its size in bytes. The file is there whole or
    not at all. Raises ClusterFault with words."""
    folder = file.resolve().parent
    if not folder.is_dir():
        raise ClusterFault(f"There is no folder {folder}.")
    with tempfile.NamedTemporaryFile(dir=folder, prefix=".evrant-backup-", delete=False) as out:
        made = Path(out.name)
    try:
        with made.open("wb") as out:
            command = [str(find_binaries() / "pg_dump"), "-Fc", "--no-owner", "--no-privileges", *_where(url)]
            done = subprocess.run(command, env=_environment(url), stdout=out, stderr=subprocess.PIPE, check=False)
            out.flush()
            os.fsync(out.fileno())
        if done.returncode != 0:
            raise ClusterFault(f"pg_dump failed:\n{done.stderr.decode(errors='replace')}")
        made.replace(file)
    finally:
        made.unlink(missing_ok=True)
    return file.stat().st_size


def restore(url: str, file: Path, engine: Engine, *, replace: bool = False) -> int:
    """Put a backup into a database, all of it or nothing; the number of studios in it then. Raises ClusterFault where
    the file is none, or studios are there already and are not to be replaced."""
    try:
        with file.open("rb") as opened:
            begins = opened.read(len(MAGIC))
    except OSError as error:
        raise ClusterFault(f"{file}: {error.strerror}") from error
    if begins != MAGIC:
        raise ClusterFault(f"{file} is not a backup made by “evrant backup”.")
    here = studios_in(engine)
    if here and not replace:
        some = "one studio" if here == 1 else f"{here} studios"
        raise ClusterFault(f"The database holds {some}. Say --replace to put the backup in their place.")
    engine.dispose()
    command = [str(find_binaries() / "pg_restore"), "--clean", "--if-exists", "--no-owner", "--no-privileges"]
    command += ["--single-transaction", "--exit-on-error", *_where(url)]
    with file.open("rb") as opened:
        done = subprocess.run(command, env=_environment(url), stdin=opened, stderr=subprocess.PIPE, check=False)
    if done.returncode != 0:
        raise ClusterFault(f"pg_restore failed, nothing was changed:\n{done.stderr.decode(errors='replace')[:2000]}")
    return studios_in(engine)


def studios_in(engine: Engine) -> int:
    """Studios a database holds; none where it has no tables yet."""
    with engine.connect() as connection:
        known = connection.execute(text("SELECT to_regclass('studio')")).scalar()
        return int(connection.execute(text("SELECT count(*) FROM studio")).scalar_one()) if known else 0


def _where(url: str) -> list[str]:
    parts = urlsplit(url)
    name = parts.path.lstrip("/") or "postgres"
    return ["-h", parts.hostname or "127.0.0.1", "-p", str(parts.port or 5432), "-U", _user(url), "-d", unquote(name)]


def _user(url: str) -> str:
    return unquote(urlsplit(url).username or "evrant")


def _environment(url: str) -> dict[str, str]:
    """The password goes by the environment, where no list of processes shows it."""
    kept = {key: value for key, value in os.environ.items() if not key.startswith("PG")}
    return kept | {"PGPASSWORD": unquote(urlsplit(url).password or ""), "LC_ALL": "C.UTF-8"}

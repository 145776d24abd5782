"""Starts a school's server for trial: JupyterHub with the configuration beside this file."""

import argparse
import os
import signal
import sys
from pathlib import Path

from cartouche.school.accounts import Accounts

HERE = Path(__file__).resolve().parent


def main() -> None:
    parser = argparse.ArgumentParser(prog="./run school", description=__doc__)
    parser.add_argument("--address", default="127.0.0.1", help="to listen at (%(default)s); another one needs a certificate")
    parser.add_argument("--port", type=int, default=8430, help="and the two ports after it, on this machine alone (%(default)s)")
    parser.add_argument("--data", default="data-school", help="accounts, and a folder for each teacher (%(default)s)")
    parser.add_argument("--public", help="the address that browsers use, where it is another one, for example https://school.example/")
    parser.add_argument("--certificate", help="PEM with its chain")
    parser.add_argument("--key", help="of that certificate, PEM")
    parser.add_argument("--fps", default="30", help="most pictures a second that go out, for each teacher")
    parser.add_argument("--add", metavar="NAME", help="make an account, or give it a new password, and end")
    parser.add_argument("--remove", metavar="NAME", help="take an account away (its folder stays), and end")
    parser.add_argument("--node", required=True, help=argparse.SUPPRESS)
    parser.add_argument("--proxy", required=True, help=argparse.SUPPRESS)
    options = parser.parse_args()
    if bool(options.certificate) != bool(options.key):
        parser.error("a certificate needs its key and a key its certificate")
    if options.address != "127.0.0.1" and not options.certificate:
        parser.error("browsers give a camera only to pages that come by TLS: give --certificate and --key, or leave --address out")
    folder = Path(options.data).absolute()
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    accounts = Accounts(folder / "accounts.json")
    if options.add:
        try:
            print(f"{options.add} can sign in now. The password: {accounts.add(options.add)}")
        except ValueError as exc:
            parser.error(str(exc))
        return
    if options.remove:
        accounts.remove(options.remove)
        return
    told = {
        "CARTOUCHE_SCHOOL": str(folder),
        "CARTOUCHE_SCHOOL_ADDRESS": options.address,
        "CARTOUCHE_SCHOOL_PORT": str(options.port),
        "CARTOUCHE_SCHOOL_FPS": options.fps,
        "CARTOUCHE_SCHOOL_NODE": str(Path(options.node).absolute()),
        "CARTOUCHE_SCHOOL_PROXY": str(Path(options.proxy).absolute()),
        "CARTOUCHE_SCHOOL_PUBLIC": options.public or "",
        "CARTOUCHE_SCHOOL_CERTIFICATE": str(Path(options.certificate).absolute()) if options.certificate else "",
        "CARTOUCHE_SCHOOL_KEY": str(Path(options.key).absolute()) if options.key else "",
    }
    scheme = "https" if options.certificate else "http"
    print(f"Cartouche for a school: open {options.public or f'{scheme}://{options.address}:{options.port}/'}", flush=True)
    if not accounts.names():
        print("Nobody has an account yet: ./run school --add NAME makes one, while this runs or before.", flush=True)
    os.chdir(folder)
    signal.signal(signal.SIGINT, signal.SIG_DFL)  # a shell starts what is in the background deaf to it, and by it the hub ends what it runs
    command = [sys.executable, "-m", "jupyterhub", "-f", str(HERE / "jupyterhub_config.py"), "--log-level", "WARN"]
    os.execvpe(sys.executable, command, {**os.environ, **told})


if __name__ == "__main__":
    main()

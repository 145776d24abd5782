# The self-contained folder, for computers without Python: `./run folder` on Linux, `pyinstaller packaging/cartouche.spec` elsewhere.
# Built on the system that it is for; see .github/workflows/package.yml.

from pathlib import Path

from PyInstaller.utils.hooks import collect_data_files, collect_submodules

SOURCES = Path(SPECPATH).parent / "src"  # noqa: F821  (given by PyInstaller)
if not (SOURCES / "cartouche" / "web" / "static" / "index.html").is_file():
    SOURCES = None  # the pages are not built here: the installed package has them

datas = collect_data_files("cartouche")  # pages, extension, models, typefaces, voices, migrations
for package in ("fpdf", "tzdata", "icalendar", "recurring_ical_events", "x_wr_timezone"):
    datas += collect_data_files(package)

ours = [name for name in collect_submodules("cartouche") if not name.startswith("cartouche.school")]  # a server has Python
hidden = ours + collect_submodules("uvicorn") + collect_submodules("websockets")  # loaded by their names

a = Analysis(  # noqa: F821
    [str(Path(SPECPATH) / "start.py")],  # noqa: F821
    pathex=[str(SOURCES)] if SOURCES else [],
    datas=datas,
    hiddenimports=hidden,
    # what the packages ask for only where it is there: more than a quarter of all modules, and a third of the time that building takes
    excludes=[
        "tkinter", "matplotlib", "IPython", "pytest", "hypothesis", "mypy", "setuptools", "pygments", "rich", "markdown_it",
        "werkzeug", "yaml", "jupyterhub", "tornado", "aiohttp",
    ],
)
exe = EXE(PYZ(a.pure), a.scripts, exclude_binaries=True, name="cartouche", console=True)  # noqa: F821
COLLECT(exe, a.binaries, a.datas, name="cartouche")  # noqa: F821

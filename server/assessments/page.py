"""The terminal's text as a page of its own, for pictures of it."""

from html import escape
from io import StringIO

from rich.console import Console, RenderableType
from rich.terminal_theme import TerminalTheme

from server.assessments.present import WIDTH

PAGE_GROUND, INK = "#FBFAF7", "#26221D"
_PAGE = """<!doctype html><html lang="en"><meta charset="utf-8"><title>@command</title>
<style>body{{margin:0;background:@ground;color:@ink}}
pre{{margin:24px;font:16px/1.38 "DejaVu Sans Mono",monospace;width:max-content}}
p{{margin:24px 24px 0;font:16px/1.38 "DejaVu Sans Mono",monospace;color:#6B655C}}</style>
<p>@command</p><pre>{code}</pre></html>"""


def page(content: RenderableType, command: str) -> str:
    """HTML that shows what a command prints, in colour."""
    made = Console(
        record=True,
        force_terminal=True,
        color_system="truecolor",
        width=WIDTH,
        file=StringIO(),
        highlight=False,
        markup=False,
        emoji=False,
    )
    made.print(content)
    ground, ink = _rgb(PAGE_GROUND), _rgb(INK)
    theme = TerminalTheme(ground, ink, [ink] * 8, [ink] * 8)
    frame = _PAGE.replace("@ground", PAGE_GROUND).replace("@ink", INK)
    frame = frame.replace("@command", escape(command).replace("{", "{{").replace("}", "}}"))
    return made.export_html(theme=theme, code_format=frame, inline_styles=True)


def _rgb(colour: str) -> tuple[int, int, int]:
    return int(colour[1:3], 16), int(colour[3:5], 16), int(colour[5:7], 16)

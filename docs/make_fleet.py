"""Draw the fleet of the demo: the marks of two dozen island lines, from a few shapes, and their table.

Run: python docs/make_fleet.py. The files are part of the package: src/rivelt/demo/skerryline/fleet.
"""

from __future__ import annotations

from pathlib import Path

FLEET = Path(__file__).parent.parent / "src/rivelt/demo/skerryline/fleet"

# Name, what its mark is made of, its two colours, the ground by day and by night, and the mark in the dark: "" is derived from the light one.
LINES = (
    ("Aldray", "sail waves", "#0E5A6B #A17727", "#F4EFE4 #0D2027", ""),
    ("Brisay", "gull sun", "#A63A2B #A77D33", "#FFF6EA #121A24", ""),
    ("Corvick", "tower waves", "#27364B #C2402B", "#EEF1F3 #0F1D2B", ""),
    ("Dunsker", "rock ring", "#3F4A3C #758562", "#F1F0E6 #0B1C22", ""),
    ("Eskmar", "hull waves", "#1D3E73 #5A85B1", "#EDF3FA #0E2323", ""),
    ("Fennoy", "sail sun", "#6B2E5F #B17149", "#FBF0EE #0B1826", ""),
    ("Grelsay", "fish waves", "#0F6E5C #9C7E38", "#EFF7F3 #10212B", "same"),
    ("Halvoy", "tower sun", "#5A3B1E #C46B25", "#FAF3E8 #101C28", ""),
    ("Innerskaw", "ring waves", "#23527A #7B8D9C", "#FFFFFF #0D2027", ""),
    ("Jorsay", "hull sun", "#7A1F2B #AB7665", "#FFF3F0 #121A24", "same"),
    ("Kelmoor", "rock waves", "#2F5D3A #95843E", "#F4F6EA #0F1D2B", ""),
    ("Lunsker", "gull ring", "#34305E #7F78B0", "#F2F0FA #0B1C22", ""),
    ("Marrowick", "fish sun", "#8A4B14 #2F7F8A", "#FFF7EA #0E2323", ""),
    ("Nesvoy", "sail ring", "#0B4F4A #3C8D82", "#EAF6F4 #0B1826", ""),
    ("Ormsay", "tower ring", "#4A2545 #A96999", "#F8EFF6 #10212B", ""),
    ("Pellay", "hull ring", "#1F4E5F #A87D1E", "#F0F6F7 #101C28", ""),
    ("Quernsay", "rock sun", "#5B3A29 #AF762C", "#FBF4EC #0D2027", ""),
    ("Ronskaw", "gull waves", "#16423C #698D75", "#F0F7F1 #121A24", ""),
    ("Sulvoy", "fish ring", "#B23A48 #997D66", "#FFF4F1 #0F1D2B", ""),
    ("Tarnsker", "sail rock", "#1B2A49 #6C849C", "#EEF2F6 #0B1C22", "same"),
    ("Ulmsay", "tower rock", "#3E4C2F #87814D", "#F5F4E7 #0E2323", ""),
    ("Vellick", "hull gull", "#0D3B66 #BD763A", "#FFF8EE #0B1826", ""),
    ("Wrasay", "fish gull", "#2D6A6A #987F41", "#F2F8F5 #10212B", ""),
    ("Yelskaw", "sun waves", "#C2611F #2A5674", "#FFF5E9 #101C28", ""),
)

SHAPES = {
    "sail": '<path fill="{a}" d="M112 30V160H36Z"/><path fill="{b}" d="M126 52V160H196Q180 92 126 52Z"/>',
    "hull": '<path fill="{a}" d="M30 128H210L178 176H64Z"/><path fill="{b}" d="M84 62H150V118H84Z"/>',
    "tower": '<path fill="{a}" d="M98 74H142L156 176H84Z"/><circle fill="{b}" cx="120" cy="48" r="20"/>',
    "gull": '<path fill="none" stroke="{a}" stroke-width="15" stroke-linecap="round" d="M34 92Q76 48 120 96Q164 48 206 92"/>',
    "fish": '<path fill="{a}" d="M34 112Q92 50 158 112L202 78V146L158 112Q92 174 34 112Z"/>'
    '<circle fill="{b}" cx="82" cy="106" r="10"/>',
    "rock": '<path fill="{a}" d="M40 180L96 104L128 142L156 118L204 180Z"/>',
    "sun": '<circle fill="{b}" cx="164" cy="66" r="28"/>',
    "ring": '<circle fill="none" stroke="{b}" stroke-width="11" cx="120" cy="120" r="100"/>',
    "waves": '<g fill="none" stroke="{b}" stroke-width="12" stroke-linecap="round">'
    '<path d="M36 186Q57 168 78 186T120 186T162 186T204 186"/><path d="M64 212Q82 196 99 212T134 212T170 212"/></g>',
}

ORDER = ("ring", "sun", "rock", "tower", "hull", "sail", "fish", "gull", "waves")

BRIEF = """\
# What all lines have in common; brands.csv has what differs, a row for each. $name is the line's name.
# Run: rivelt fleet fleet/brands.csv --brief fleet/brands.toml --out fleet-results

[app]
name = "Skerryline $name"
project = ".."
targets = ["android", "ios"]

[light]
mark = "art/$name.svg"

[dark]
mark = "derive"             # recoloured where it would not stand out
"""


def main() -> None:
    """Write the brief, the table and the marks."""
    rows = ["name,light.ground,dark.ground,dark.mark,#harbour"]
    for number, (name, shapes, inks, grounds, dark) in enumerate(LINES, 1):
        a, b = inks.split()
        drawn = "".join(SHAPES[shape].format(a=a, b=b) for shape in sorted(shapes.split(), key=ORDER.index))
        mark = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 240 240" width="240" height="240">{drawn}</svg>\n'
        (FLEET / "art" / f"{name}.svg").write_text(mark, encoding="utf-8")
        light, night = grounds.split()
        rows.append(f"{name},{light},{night},{f'art/{name}.svg' if dark else ''},pier {number}")
    (FLEET / "brands.csv").write_text("\n".join(rows) + "\n", encoding="utf-8")
    (FLEET / "brands.toml").write_text(BRIEF, encoding="utf-8")


if __name__ == "__main__":
    (FLEET / "art").mkdir(parents=True, exist_ok=True)
    main()

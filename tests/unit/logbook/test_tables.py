from __future__ import annotations

import json
from pathlib import Path

import pytest

from logarithm.logbook.exchange.importing import imported
from logarithm.logbook.records import StudyRecord, Trial

SIZES = [8, 16, 32, 64, 128, 256, 512]


def tidy() -> str:
    rows = ["contender,size,value"]
    for n in SIZES:
        for bump in (0.98, 1.0, 1.02):
            rows += [f"tide,{n},{bump * (2000 + 30 * n)}", f"ebb,{n},{bump * (5 * n * n)}"]
    return "\n".join(rows)


def test_a_tidy_table_gets_the_same_analysis(harbour) -> None:
    (harbour.folder / "times.csv").write_text(tidy())
    done = harbour.run("import", "times.csv", "--unit", "ns", "--baseline", "ebb")
    assert done.code == 0, done.err
    found = harbour.run("report", "--format", "json").json
    assert {row["contender"]: row["order"] for row in found["growth"]} == {"tide": "n", "ebb": "n^2"}
    (crossover,) = found["crossovers"]
    # 5 n² = 2000 + 30 n at n = 23.224
    assert (crossover["before"], crossover["after"]) == ("ebb", "tide")
    assert crossover["low"] <= 23.224 <= crossover["high"]
    assert crossover["size"] == pytest.approx(23.22, rel=0.02)
    growth = next(row for row in found["growth"] if row["contender"] == "tide")
    assert growth["fixed"] == pytest.approx(2e-6, rel=0.05)
    assert growth["scale"] == pytest.approx(30e-9, rel=0.05)
    assert "tide overtakes ebb at n = 23" in done.out


def test_a_wide_table_is_recognised(harbour) -> None:
    rows = ["n;tide gauge;ebb", *(f"{n};{0.5 * n};{n * n / 8}".replace(".", ",") for n in SIZES), "1024;;40"]
    (harbour.folder / "wide.csv").write_text("\n".join(rows), encoding="utf-8-sig")
    done = harbour.run("import", "wide.csv", "--unit", "ms")
    assert done.code == 0, done.err
    trials = harbour.records("trial")
    assert len(trials) == 2 * len(SIZES) + 1
    assert [t["elapsed"] for t in trials if t["contender"] == "tide gauge"][:2] == [4e6, 8e6]


WRONG = [
    ("size,b (us)\n8,1\n", ("--unit", "ms"), "line 2, column 'b': is it in us or in ms?"),
    ("size,n,b\n8,9,1\n", (), "has the columns size and n: say which is the size"),
    ("contender,size,value,unit\na,8,1,knots\n", (), "line 2, column 'unit': 'knots' is not a unit of time"),
    ("size;a;b\n8;1,5;2.25\n", (), "'2.25' has a point where others have a comma"),
    ('size,a\n8,"1\n', (), "line 2: its quotation marks do not pair"),
    ("size,a\n8,1,2\n", (), "line 2: 3 cells under 2 headings"),
    ('size,a\n"8\n",1\n16,fog\n', (), "line 4, column 'a': 'fog' is not a number"),
    ("contender,size,value\na,8,fog\n", (), "line 2, column 'value': 'fog' is not a number"),
    ("contender,size,value\na,8,1\na,16,-1\n", (), "line 3, column 'value': -1 cannot be: a time is more than 0"),
    ("contender,size,value\na,8,0\n", (), "line 2, column 'value': 0 cannot be: a time is more than 0"),
    ("contender,size,value\na,,1\n", (), "line 2, column 'size': the cell is empty"),
    ("contender,size,value\na,8,inf\n", (), "line 2, column 'value'"),
    ("contender,size,value\n", (), "no row"),
    ("contender,size\na,8\n", (), "no column 'value'"),
    ("name,value\na,8\n", (), "is it 'name'? Then say --column contender=name"),
    ("length,kind,took\n8,a,1\n", (), "--column contender=kind --column size=length --column value=took"),
    ("impl,took\nold,3\n", (), "Then say --column contender=impl --column value=took"),
    ("size,a,b\n8,1,2\n16,1,x\n", (), "line 3, column 'b': 'x' is not a number"),
    ("size\n8\n", (), "no column beside"),
    ("contender,size,value,heat\na,8,1,x\n", (), "line 2, column 'heat'"),
    ("contender,size,value\na,8,1\n", ("--unit", "h"), "not a unit"),
    ("contender,size,value\na,8,1\n", ("--column", "value=nanos"), "no column 'nanos'"),
    ("contender,size,value\na,8,1\n", ("--column", "value"), "KNOWN=HEADING"),
    ("contender,size,value\na,8,1\n", ("--baseline", "b"), "no contender 'b'"),
    ("", (), "empty"),
]


@pytest.mark.parametrize(("text", "options", "told"), WRONG)
def test_what_is_wrong_with_a_table_is_named_by_line_and_column(harbour, text: str, options, told: str) -> None:
    (harbour.folder / "bad.csv").write_text(text)
    done = harbour.run("import", "bad.csv", *options)
    assert done.code == 2
    assert told in done.err
    assert len(done.err.splitlines()) == 1
    assert not list(harbour.folder.glob("logbooks/*"))


def test_other_headings_and_families(harbour) -> None:
    text = "who,n,nanos,family\n" + "".join(f"tide,{n},{n * 10},spring\n" for n in SIZES)
    (harbour.folder / "t.csv").write_text(text)
    columns = ("--column", "contender=who", "--column", "value=nanos", "--column", "size=n")
    assert harbour.run("import", "t.csv", "--unit", "ns", *columns).code == 0
    assert harbour.run("report", "--format", "json").json["growth"][0]["family"] == "spring"


def test_what_is_exported_comes_back_the_same(harbour) -> None:
    (harbour.folder / "times.csv").write_text(tidy().replace("tide", "=tide"))
    assert harbour.run("import", "times.csv", "--unit", "ns").code == 0
    first = harbour.run("report", "--format", "json").json
    for arguments in (("tidy.csv",), ("wide.csv", "--wide")):
        assert harbour.run("export", "--out", *arguments).code == 0
    assert "\n'=tide," in (harbour.folder / "tidy.csv").read_text()
    assert (harbour.folder / "wide.csv").read_text().startswith("size,heat,'=tide,ebb\n")
    for name in ("tidy.csv", "wide.csv"):
        assert harbour.run("import", name).code == 0
        again = harbour.run("report", "--format", "json").json
        assert again["study"]["contenders"] == first["study"]["contenders"] == ["=tide", "ebb"]
        assert [row["size"] for row in again["crossovers"]] == pytest.approx(
            [row["size"] for row in first["crossovers"]]
        )
    assert harbour.run("export", "--out", "times.json").code == 0
    assert len(json.loads((harbour.folder / "times.json").read_text())) == 6 * len(SIZES)
    refused = harbour.run("export", "--out", "times.xls")
    assert (refused.code, "name ends in .csv or .json" in refused.err) == (2, True)


def test_a_table_may_say_its_units_and_begin_with_a_title(harbour) -> None:
    text = 'Harbour times, spring\n\nsize,sweep (us),grid [ms]\n10,1.5,0.002\n20,"1,500.5",0.004\n'
    (harbour.folder / "titled.csv").write_text(text)
    done = harbour.run("import", "titled.csv", "--out", "titled.jsonl")
    assert done.code == 0
    assert "each size has one row" in done.out.replace("\n  ", " ")
    assert harbour.run("export", "titled.jsonl").out.splitlines()[1].split(",")[-1] == "1.5e-06"
    table = [line.split(",") for line in harbour.run("export", "titled.jsonl").out.splitlines()[1:]]
    values = sorted(float(row[-1]) for row in table)
    assert values == pytest.approx([1.5e-6, 2e-6, 4e-6, 1500.5e-6])
    (harbour.folder / "rows.csv").write_text("contender;size;value;unit\na;1.000;2,5;ms\na;2.000;3;us\n")
    assert harbour.run("import", "rows.csv", "--out", "rows.jsonl").code == 0
    rows = [line.split(",") for line in harbour.run("export", "rows.jsonl").out.splitlines()[1:]]
    assert [(float(row[4]), float(row[-1])) for row in rows] == [(1000, 0.0025), (2000, 3e-6)]


def test_units_may_stand_in_cells(harbour) -> None:
    (harbour.folder / "cells.csv").write_text("size,scan,table\n8,143.9 ms,35 µs\n16,0.3 s,70µs\n")
    assert harbour.run("import", "cells.csv", "--out", "cells.jsonl").code == 0
    found = harbour.run("report", "cells.jsonl", "--format", "json").json
    costs = {each["contender"]: [point["typical"] for point in each["points"]] for each in found["costs"]}
    assert costs["scan"] == pytest.approx([0.1439, 0.3]) and costs["table"] == pytest.approx([35e-6, 70e-6])
    both = harbour.run("import", "cells.csv", "--unit", "s", "--out", "other.jsonl")
    assert both.code == 2 and "is it in ms or in s? The table and --unit must say the same" in both.err


def test_a_table_may_have_no_sizes_and_several_tables_stand_in_one_file(tmp_path: Path) -> None:
    bare = tmp_path / "bare.csv"
    bare.write_text("By hand\nold,new\n143.9 ms,35 ms\n150 ms,36 ms\n")
    records = imported(bare)
    trials = [each for each in records if isinstance(each, Trial)]
    assert [each.axis for each in records if isinstance(each, StudyRecord)] == ["comparison"]
    assert [(each.contender, each.size, each.heat, round(each.elapsed / 1e5)) for each in trials] == [
        ("old", 1, 1, 1439),
        ("old", 1, 2, 1500),
        ("new", 1, 1, 350),
        ("new", 1, 2, 360),
    ]
    sheets = tmp_path / "sheets.csv"
    sheets.write_text("Ebb\nn,old,new\n8,1,2\n16,2,3\n\nFlood tide\nn,old,new\n8,4,2\n")
    made = [each for each in imported(sheets) if isinstance(each, Trial)]
    assert [(each.family, each.contender, each.size) for each in made if each.contender == "old"] == [
        ("Ebb", "old", 8),
        ("Ebb", "old", 16),
        ("Flood tide", "old", 8),
    ]


def test_a_logbook_is_replaced_where_that_is_said_and_something_takes_its_place(harbour) -> None:
    table = harbour.folder / "depths.csv"
    table.write_text("contender,size,value\n" + "".join(f"scan,{n},{n}e-6\n" for n in (8, 16, 32, 64)))
    assert harbour.run("import", "depths.csv", "--out", "run.jsonl").code == 0
    before = (harbour.folder / "run.jsonl").read_text()
    assert "say --overwrite" in harbour.run("import", "depths.csv", "--out", "run.jsonl").err
    table.write_text("contender,size,value\nscan,deep,1\n")
    assert harbour.run("import", "depths.csv", "--out", "run.jsonl", "--overwrite").code == 2
    assert (harbour.folder / "run.jsonl").read_text() == before
    table.write_text("contender,size,value\n" + "".join(f"grid,{n},{n}e-6\n" for n in (8, 16, 32, 64)))
    assert harbour.run("import", "depths.csv", "--out", "run.jsonl", "--overwrite").code == 0
    assert harbour.run("growth", "run.jsonl", "grid").code == 0
    assert "there is only 'grid'" in harbour.run("growth", "run.jsonl", "scan").err
    assert [each.name for each in harbour.folder.glob(".*.before")] == []

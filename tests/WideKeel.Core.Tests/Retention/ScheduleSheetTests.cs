using CsCheck;
using WideKeel.Core.Content;
using WideKeel.Core.People;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;

namespace WideKeel.Core.Tests.Retention;

public class ScheduleSheetTests
{
    private static readonly SeriesDefinition Good = new(
        "Oil record books",
        "Pages",
        "File each page",
        new("Vessels", "Fuel", "", "Fleet", ["ship", "sea"]),
        "Edvin",
        ["MARPOL I/17"],
        false,
        ClauseJoin.Later,
        [new("field:last-entry", Cutoff.None, "P3Y"), new("event:vessel-sold", Cutoff.Fiscal, "P1Y6M")],
        EndAction.SignOff,
        Grade.Declared,
        true,
        30,
        [new(Role.Steward), new(Role.RecordsManager)]
    );

    private static Dictionary<string, string> Cells(SheetRow row) =>
        ScheduleSheet.Columns.Zip(ScheduleSheet.Write(row)).ToDictionary(c => c.First, c => c.Second);

    private static readonly Gen<SeriesDefinition> AnyDefinition = Gen.Select(
            Any.Rule,
            Gen.Bool,
            Gen.Enum<ClauseJoin>(),
            Gen.Int[0, 3650],
            Gen.OneOf(Gen.Const(Grade.Kept), Gen.Const(Grade.Declared), Gen.Const(Grade.Worm))
        )
        .Select(
            (rule, permanent, join, grace, grade) =>
                Good with
                {
                    Permanent = permanent,
                    Join = join,
                    GraceDays = grace,
                    Grade = grade,
                    AtEnd = EndAction.SignOff,
                    Clauses =
                    [
                        .. rule.Clauses.Select(c => new ClauseText(
                            c.Trigger.Code,
                            c.Cutoff,
                            $"P{c.Period.Years}Y{c.Period.Months}M{c.Period.Days}D"
                        )),
                    ],
                }
        );

    [Fact]
    public void What_goes_out_comes_back_the_same() =>
        AnyDefinition.Sample(definition =>
        {
            var row = new SheetRow("VES-010", "Tarn / Fleet", definition, 7);
            var back = ScheduleSheet.Read(Cells(row), null).Value;
            ScheduleSheet.Differences(row, back).ShouldBeEmpty();
            back.Definition.DifferencesFrom(definition).Except(["join"]).ShouldBeEmpty();
            (back.Revision, back.Unit).ShouldBe((7, "Tarn / Fleet"));
        });

    [Fact]
    public void A_clause_reads_as_a_person_writes_it() =>
        Cells(new("VES-010", "Fleet", Good, null))["clauses"]
            .ShouldBe("P3Y field:last-entry; P1Y6M event:vessel-sold fiscal");

    [Fact]
    public void A_column_that_the_sheet_lacks_keeps_what_is_there()
    {
        var known = new SheetRow("VES-010", "Fleet", Good, 7);
        var back = ScheduleSheet
            .Read(new Dictionary<string, string> { ["code"] = "VES-010", ["title"] = "Oil books" }, known)
            .Value;
        ScheduleSheet.Differences(known, back).ShouldBe([new("title", "Oil record books", "Oil books")]);
    }

    [Theory]
    [InlineData("code", "ves 10", "code")]
    [InlineData("title", "", "title")]
    [InlineData("permanent", "perhaps", "permanent")]
    [InlineData("clauses", "seven years", "clauses")]
    [InlineData("clauses", "P7Y", "clauses")]
    [InlineData("clauses", "P7Y created decade", "clauses")]
    [InlineData("at-end", "burn", "at-end")]
    [InlineData("grade", "none", "grade")]
    [InlineData("grace-days", "-1", "grace-days")]
    [InlineData("grace-days", "9999", "grace-days")]
    [InlineData("stages", "king; queen", "stages")]
    [InlineData("stages", "steward", "stages")]
    public void A_wrong_cell_is_refused_by_its_column(string column, string value, string named)
    {
        var cells = Cells(new("VES-010", "Fleet", Good, 7));
        cells[column] = value;
        ScheduleSheet.Read(cells, null).Refusal.ShouldNotBeNull().Field.ShouldBe(named);
    }
}

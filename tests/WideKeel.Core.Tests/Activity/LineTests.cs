using WideKeel.Core.Activity;

namespace WideKeel.Core.Tests.Activity;

/// <summary>Lines of other systems as events.</summary>
public class LineTests
{
    /// <summary>The examples of RFC 5424 §6.5, typed from the standard.</summary>
    [Theory]
    [InlineData(
        "<34>1 2003-10-11T22:14:15.003Z mymachine.example.com su - ID47 - 'su root' failed for lonvick on /dev/pts/8",
        "mymachine.example.com",
        "su",
        "id47"
    )]
    [InlineData(
        "<165>1 2003-08-24T05:14:15.000003-07:00 192.0.2.1 myproc 8710 - - %% It's time to make the do-nuts.",
        "192.0.2.1",
        "myproc",
        null
    )]
    [InlineData(
        "<165>1 2003-10-11T22:14:15.003Z mymachine.example.com evntslog - ID47 "
            + "[exampleSDID@32473 iut=\"3\" eventSource=\"Application\" eventID=\"1011\"] An application event log entry...",
        "mymachine.example.com",
        "evntslog",
        "id47"
    )]
    [InlineData(
        "<165>1 2003-10-11T22:14:15.003Z mymachine.example.com evntslog - ID47 "
            + "[exampleSDID@32473 iut=\"3\" eventSource=\"Application\" eventID=\"1011\"][examplePriority@32473 class=\"high\"]",
        "mymachine.example.com",
        "evntslog",
        "id47"
    )]
    public void The_examples_of_the_syslog_standard_are_read(string line, string host, string app, string? action)
    {
        var e = SyslogLine.Read(line).Value;
        (e.Device, e.Application, e.Action).ShouldBe((host, app, action));
    }

    [Fact]
    public void Parameters_named_as_fields_become_them()
    {
        var e = SyslogLine
            .Read(
                "<134>1 2026-06-01T08:00:00Z gw door - sign-in "
                    + "[wk@32473 user=\"a@x.example\" src=\"192.0.2.7\" result=\"failure\" note=\"a \\\"b\\\" \\]\"] denied"
            )
            .Value;
        (e.Actor, e.Address, e.Outcome).ShouldBe(("a@x.example", "192.0.2.7", EventOutcome.Failure));
        EventColumn.FieldsOf(e.Details)["note"].ShouldBe("a \"b\" ]");
    }

    [Theory]
    [InlineData("no priority at all")]
    [InlineData("<999>1 2026-06-01T08:00:00Z h a - - -")]
    [InlineData("<34>1 2026-06-01T08:00:00Z h a - -")]
    [InlineData("<34>1 2026-06-01T08:00:00Z h a - - [x y=\"open]")]
    public void What_is_no_message_of_the_standard_is_refused(string line) =>
        SyslogLine.Read(line).Refusal!.Code.ShouldBe("line-malformed");

    [Fact]
    public void A_sign_in_in_the_shape_of_the_open_schema_is_read()
    {
        var e = OcsfLine
            .Read(
                """
                {"class_uid":3002,"activity_id":1,"time":1780300800000,"status_id":2,"status_code":"bad-password",
                 "actor":{"user":{"email_addr":"a@x.example"}},"src_endpoint":{"ip":"192.0.2.9"},"metadata":{"uid":"z1"}}
                """
            )
            .Value;
        (e.Id, e.Action, e.Outcome, e.Code, e.Address).ShouldBe(
            ("z1", "sign-in", EventOutcome.Failure, "bad-password", "192.0.2.9")
        );
    }

    [Fact]
    public void A_row_of_a_table_becomes_an_event_by_its_mapping()
    {
        var mapping = new EventMapping(
            new Dictionary<string, string>
            {
                ["When"] = "time",
                ["User"] = "actor",
                ["Result"] = "outcome",
            },
            new Dictionary<string, string> { ["action"] = "sign-in" },
            new Dictionary<string, IReadOnlyDictionary<string, string>>
            {
                ["outcome"] = new Dictionary<string, string> { ["OK"] = "success" },
            },
            "dd.MM.uuuu HH:mm",
            "Europe/Copenhagen"
        );
        var e = mapping
            .Read(
                new Dictionary<string, string>
                {
                    ["When"] = "01.06.2026 10:00",
                    ["User"] = "a",
                    ["Result"] = "OK",
                    ["Gate"] = "7",
                },
                "the row"
            )
            .Value;
        (EventLine.Text(e.Time), e.Action, e.Outcome, e.Details).ShouldBe(
            ("2026-06-01T08:00:00.000Z", "sign-in", EventOutcome.Success, """{"Gate":"7"}""")
        );
    }

    [Fact]
    public void A_row_without_a_mapped_column_is_refused_by_its_name() =>
        new EventMapping(new Dictionary<string, string> { ["When"] = "time" })
            .Read(new Dictionary<string, string> { ["Other"] = "x" }, "")
            .Refusal!.Sentence.ShouldBe("The column “When” is missing.");

    [Fact]
    public void A_line_without_an_id_is_known_by_its_hash()
    {
        const string line = """{"time":"2026-06-01T08:00:00Z"}""";
        EventLine.Read(line).Value.Id.ShouldBe(EventLine.IdOf(line));
    }

    [Theory]
    [InlineData("192.0.2.0/25", "192.0.2.127", true)]
    [InlineData("192.0.2.0/25", "192.0.2.128", false)]
    [InlineData("192.0.2.77/24", "192.0.2.3", true)]
    [InlineData("2001:db8::/32", "2001:db8:1::5", true)]
    [InlineData("192.0.2.0/24", "2001:db8::1", false)]
    public void An_address_lies_in_a_network_or_not(string network, string address, bool lies) =>
        WideKeel.Core.Query.Cidr.Holds(WideKeel.Core.Query.Cidr.Read(network)!.Value, address).ShouldBe(lies);

    [Fact]
    public void Two_dozen_statements_are_ready() => ReadyStatements.All.Count.ShouldBeGreaterThanOrEqualTo(24);
}

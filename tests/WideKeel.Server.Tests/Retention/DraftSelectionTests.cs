using System.Net;

namespace WideKeel.Server.Tests.Retention;

/// <summary>Drafts that take effect together, and those that stay drafts.</summary>
public sealed class DraftSelectionTests : IAsyncLifetime
{
    private readonly Product product = new();
    private Api ines = null!;
    private long first;
    private long second;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        ines = await product.SignInAsync("ines");
        first = await DraftAsync("AAA-010");
        second = await DraftAsync("BBB-010");
    }

    public ValueTask DisposeAsync()
    {
        ines.Dispose();
        return product.DisposeAsync();
    }

    private async Task<long> DraftAsync(string code, object? definition = null) => (
            await ines.PostOk(
                "series",
                new
                {
                    code,
                    unitId = product.Units["Tarn Lines"],
                    draft = definition ?? Product.Definition(),
                }
            )
        ).GetProperty("row").GetProperty("id").GetInt64();

    private async Task<Answer> AdoptAsync(params string[] drafts)
    {
        var seen = await ines.GetOk($"schedule/drafts?only={string.Join(',', drafts)}");
        return await ines.Post(
            "schedule/adoption",
            new
            {
                fingerprint = seen.GetProperty("consequences").GetProperty("fingerprint").GetString(),
                why = "test",
                drafts,
            }
        );
    }

    private async Task<string[]> WaitingAsync() =>
        [
            .. (await ines.GetOk("schedule/drafts"))
                .GetProperty("drafts")
                .EnumerateArray()
                .Select(d => d.GetProperty("code").GetString()!),
        ];

    [Fact]
    public async Task Only_what_was_selected_takes_effect()
    {
        (await AdoptAsync($"series-{first}")).Status.ShouldBe(HttpStatusCode.OK);
        (await WaitingAsync()).ShouldBe(["BBB-010"]);
    }

    [Fact]
    public async Task A_draft_that_is_gone_is_not_left_out_in_silence()
    {
        await ines.Delete($"series/{second}/draft");
        (
            await ines.Post(
                "schedule/adoption",
                new
                {
                    fingerprint = "x",
                    why = "test",
                    drafts = new[] { $"series-{first}", "series-987654" },
                }
            )
        ).Problem.ShouldBe("draft-gone");
    }

    [Fact]
    public async Task Nothing_selected_is_refused() =>
        (
            await ines.Post(
                "schedule/adoption",
                new
                {
                    fingerprint = "x",
                    why = "test",
                    drafts = Array.Empty<string>(),
                }
            )
        ).Problem.ShouldBe("no-draft");

    [Fact]
    public async Task Five_hundred_and_one_fields_in_clauses_do_not_end_the_lists()
    {
        var clauses = Enumerable
            .Range(0, 501)
            .Select(i =>
                (object)
                    new
                    {
                        trigger = $"field:date{i}",
                        cutoff = "none",
                        period = "P1Y",
                    }
            )
            .ToArray();
        for (var i = 0; i < clauses.Length; i += 6)
        {
            var definition = Product.Definition(clauses: clauses[i..Math.Min(i + 6, clauses.Length)]);
            await Product.ActivateAsync(ines, await DraftAsync($"MNY-{i:000}", definition), definition);
        }

        (
            (await ines.Get("today")).Status,
            (await ines.Get("schedule/health")).Status,
            (await ines.Get("schedule/to-mend?kind=field")).Status
        ).ShouldBe((HttpStatusCode.OK, HttpStatusCode.OK, HttpStatusCode.OK));
    }
}

using System.Net;
using System.Text.Json;
using WideKeel.Core.People;

namespace WideKeel.Server.Tests.Readiness;

/// <summary>A product with an audit that has an auditor, and a control with one piece of evidence.</summary>
public abstract class AuditedProduct : IAsyncLifetime
{
    protected Product Product { get; } = new();
    protected Api Manager { get; private set; } = null!;
    protected Api Auditor { get; private set; } = null!;
    protected long Audit { get; set; }
    protected long Part { get; private set; }

    /// <summary>A control with one piece of evidence, in the period, and an audit that asks for its requirement.</summary>
    public async ValueTask InitializeAsync()
    {
        await Product.InitializeAsync();
        await Product.WriteDirectoryAsync(
            DirectoryState.Empty with
            {
                People = [new("ann@tarn.example", "Ann"), new("bo@tarn.example", "Bo", SecondFactor: false)],
            }
        );
        Manager = await Product.SignInAsync("mikkel");
        await Manager.PostOk("frameworks", new { code = "nist-csf-2.0" });
        await Manager.PostOk(
            "controls",
            new
            {
                code = "ACC-01",
                title = "Second factor",
                says = "",
                area = "access",
                owner = "pia@tarn.example",
                units = Array.Empty<long>(),
                requirements = new[] { "nist-csf-2.0/PR.AA" },
            }
        );
        await Manager.PostOk(
            $"controls/{(await ControlAsync()).GetProperty("id").GetInt64()}/parts",
            new
            {
                kind = "evidence",
                title = "The list",
                period = "P90D",
                doer = "pia@tarn.example",
            }
        );
        Part = (await ControlAsync()).GetProperty("parts")[0].GetProperty("id").GetInt64();
        using (var admin = await Product.SignInAsync("jonas"))
        {
            await Product.AddPersonAsync(admin, "aud", "externalAuditor");
        }

        Audit = await PlanAsync("2026-06-30");
        Auditor = await Api.ConnectAsync(Product.Address);
        await Auditor.PostOk("session", new { mail = "aud@tarn.example", password = Product.Password });
        await Auditor.RenewTokenAsync();
    }

    public ValueTask DisposeAsync()
    {
        Manager.Dispose();
        Auditor.Dispose();
        GC.SuppressFinalize(this);
        return Product.DisposeAsync();
    }

    protected async Task<long> PlanAsync(string through)
    {
        await Manager.PostOk(
            "audits",
            new
            {
                name = "Yearly",
                framework = "nist-csf-2.0",
                auditor = "aud@tarn.example",
                periodFrom = "2025-06-01",
                periodThrough = through,
                startsOn = "2026-06-10",
                endsOn = "2026-06-25",
            }
        );
        var id = (await Manager.GetOk("audits")).EnumerateArray().Max(a => a.GetProperty("id").GetInt64());
        foreach (var requirement in new[] { "PR.AA", "" })
        {
            await Manager.PostOk(
                $"audits/{id}/requests",
                new
                {
                    what = "Second factor",
                    requirement,
                    owner = "pia@tarn.example",
                    due = "2026-06-20",
                }
            );
        }

        return id;
    }

    protected async Task<JsonElement> ControlAsync() => (await Manager.GetOk("controls"))[0];

    protected async Task<long> GiveAsync(string text)
    {
        var given = await Manager.Http.PostAsync(
            new Uri($"control-parts/{Part}/evidence?file=list.txt", UriKind.Relative),
            new ByteArrayContent(System.Text.Encoding.UTF8.GetBytes(text)),
            TestContext.Current.CancellationToken
        );
        given.StatusCode.ShouldBe(HttpStatusCode.OK);
        return (await ControlAsync())
            .GetProperty("parts")[0]
            .GetProperty("proofs")
            .EnumerateArray()
            .Max(p => p.GetProperty("id").GetInt64());
    }

    protected async Task<JsonElement> RequestAsync(int number = 1, Api? who = null) =>
        (await (who ?? Auditor).GetOk($"audits/{Audit}"))
            .GetProperty("requests")
            .EnumerateArray()
            .Single(r => r.GetProperty("number").GetInt32() == number);

    protected async Task<long> FoundAsync()
    {
        await Auditor.PostOk(
            $"audits/{Audit}/findings",
            new
            {
                title = "Two without a factor",
                severity = "major",
                control = "ACC-01",
            }
        );
        return (await FindingAsync()).GetProperty("id").GetInt64();
    }

    protected async Task<JsonElement> FindingAsync() =>
        (await Auditor.GetOk($"audits/{Audit}")).GetProperty("findings")[0];
}

using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace WideKeel.Server.Tests.Readiness;

/// <summary>A product with one piece of evidence, and ways to give and change it.</summary>
public abstract class ProvedProduct : AuditedProduct
{
    protected static CancellationToken Stop => TestContext.Current.CancellationToken;

    protected async Task<Answer> GiveAsync(Api who, string text, string more = "", long? part = null)
    {
        var response = await who.Http.PostAsync(
            new Uri($"control-parts/{part ?? Part}/evidence?file=list.txt{more}", UriKind.Relative),
            new ByteArrayContent(Encoding.UTF8.GetBytes(text)),
            Stop
        );
        var body = await response.Content.ReadAsStringAsync(Stop);
        return new(response.StatusCode, JsonDocument.Parse(body.Length == 0 ? "{}" : body).RootElement, response);
    }

    protected async Task<JsonElement> PartAsync(long? id = null) =>
        (await ControlAsync())
            .GetProperty("parts")
            .EnumerateArray()
            .Single(p => p.GetProperty("id").GetInt64() == (id ?? Part));

    protected async Task<bool> CountsAsync() => (await PartAsync()).GetProperty("counts").GetBoolean();

    protected async Task<long> AddAsync(object part)
    {
        await Manager.PostOk($"controls/{(await ControlAsync()).GetProperty("id").GetInt64()}/parts", part);
        return (await ControlAsync()).GetProperty("parts").EnumerateArray().Max(p => p.GetProperty("id").GetInt64());
    }

    protected async Task<Answer> ChangeAsync(object part)
    {
        var control = await ControlAsync();
        return await Manager.Put(
            $"controls/{control.GetProperty("id").GetInt64()}/parts/{Part}",
            part,
            control.GetProperty("revision").GetInt64()
        );
    }

    protected static object List(string period = "P90D", bool needsReview = false) =>
        new
        {
            kind = "evidence",
            title = "The list",
            period,
            doer = "pia@tarn.example",
            needsReview,
        };

    /// <summary>Changes the control's settings.</summary>
    protected async Task SetAsync(Action<JsonObject> change)
    {
        var control = await ControlAsync();
        var settings = JsonNode.Parse(control.GetProperty("settings").GetRawText())!.AsObject();
        change(settings);
        await Manager.Put(
            $"controls/{control.GetProperty("id").GetInt64()}",
            settings,
            control.GetProperty("revision").GetInt64()
        );
    }
}

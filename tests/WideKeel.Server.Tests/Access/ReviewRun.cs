using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.People;
using WideKeel.Store.People;

namespace WideKeel.Server.Tests.Access;

/// <summary>A review that a test starts, answers and ends.</summary>
internal sealed class ReviewRun(Product product, Api manager)
{
    public long Review { get; private set; }

    public async Task StartAsync(object settings)
    {
        await manager.PostOk("reviews", settings);
        Review = (await manager.GetOk("reviews"))[0].GetProperty("id").GetInt64();
        await manager.PostOk($"reviews/{Review}/rounds", new { });
    }

    /// <summary>The token of a reviewer's link.</summary>
    public async Task<string> TokenAsync(string mail = "ines@tarn.example")
    {
        await using var db = product.Database();
        var link = await db.ReviewerLinks.SingleAsync(l => l.Mail == mail, TestContext.Current.CancellationToken);
        return await product.LinkAsync(LinkKind.Review, link.Id, mail);
    }

    public async Task<JsonElement> LineAsync(string person = "guest@yard.example") =>
        (await manager.GetOk($"reviews/{Review}/rounds/1"))
            .GetProperty("lines")
            .EnumerateArray()
            .Single(l => l.GetProperty("person").GetString() == person);

    public async Task<Answer> AnswerAsync(
        string decision,
        string person = "guest@yard.example",
        object? changes = null,
        string reviewer = "ines@tarn.example"
    )
    {
        var token = await TokenAsync(reviewer);
        using var nobody = await Api.ConnectAsync(product.Address);
        await product.ProveAsync(nobody, token);
        return await nobody.Post(
            $"review/{token}/answers",
            new
            {
                lines = new[] { (await LineAsync(person)).GetProperty("id").GetInt64() },
                decision,
                reason = "",
                changes,
            }
        );
    }

    /// <summary>What a removal takes, as the reviewer sees it.</summary>
    public async Task<JsonElement> RemovalAsync(string person = "guest@yard.example")
    {
        using var nobody = await Api.ConnectAsync(product.Address);
        var line = (await LineAsync(person)).GetProperty("id").GetInt64();
        return await nobody.GetOk($"review/{await TokenAsync()}/lines/{line}/removal");
    }

    public Task EndAsync() => manager.PostOk($"reviews/{Review}/rounds/1/end", new { });

    /// <summary>Whether the removal was applied, and else why not.</summary>
    public async Task<(bool Applied, string? Failure)> OutcomeAsync(string person = "guest@yard.example")
    {
        var line = await LineAsync(person);
        return (line.GetProperty("applied").GetBoolean(), line.GetProperty("failure").GetString());
    }
}

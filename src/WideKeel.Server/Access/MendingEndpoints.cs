using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.Access;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.Access;

namespace WideKeel.Server.Access;

public sealed record MendingSummary(string Name, string Title, string Says, int Lines, int Fixable);

/// <param name="Fix">The exact change, as a request for its consequences or for its making.</param>
/// <param name="FixSays">The same as a sentence.</param>
public sealed record MendingLineView(string Who, string? What, string Words, ChangeRequest? Fix, string? FixSays);

public sealed record MendingView(string Name, string Title, string Says, IReadOnlyList<MendingLineView> Lines);

/// <param name="Tickets">Each new line goes to the connected addresses, signed, as a ticket.</param>
/// <param name="Recipients">Mail addresses of whoever is informed.</param>
public sealed record MendingNewsView(bool Tickets, IReadOnlyList<string> Recipients);

public sealed record ToxicPairView(string Name, string First, string FirstRole, string Second, string SecondRole);

/// <summary>The lists to mend, and the matrix of roles that nobody should have together.</summary>
public static class MendingEndpoints
{
    public static void MapMending(this IEndpointRouteBuilder api)
    {
        api.MapGet("/access/lists", Lists).Requires(Right.ReadAccess);
        api.MapGet("/access/lists/{name}", One).Requires(Right.ReadAccess);
        api.MapGet("/access/lists/{name}/list.csv", Csv).Requires(Right.ReadAccess);
        api.MapGet("/access/lists/{name}/news", News).Requires(Right.ReadAccess);
        api.MapPut("/access/lists/{name}/news", PutNews).Requires(Right.ManageAccess);
        api.MapGet("/access/toxic-pairs", Pairs).Requires(Right.ReadAccess);
        api.MapPut("/access/toxic-pairs", PutPairs).Requires(Right.ManageAccess);
    }

    private static async Task<Reply<IReadOnlyList<MendingSummary>>> Lists(
        AccessGround ground,
        WideKeelDb db,
        CancellationToken cancel
    ) =>
        (Outcome<IReadOnlyList<MendingSummary>>)
            Mending
                .Lists(await ground.FactsAsync(db, cancel), ground.Access)
                .Select(l => new MendingSummary(
                    l.Name,
                    l.Title,
                    l.Says,
                    l.Lines.Count,
                    l.Lines.Count(x => x.Fix is not null)
                ))
                .ToList();

    private static async Task<Reply<MendingView>> One(
        string name,
        AccessGround ground,
        WideKeelDb db,
        CancellationToken cancel
    ) =>
        Mending.List(name, await ground.FactsAsync(db, cancel), ground.Access) is not { } list
            ? Problems.NotFound("list")
            : new MendingView(
                list.Name,
                list.Title,
                list.Says,
                [
                    .. list.Lines.Select(l => new MendingLineView(
                        l.Who,
                        l.What,
                        l.Words,
                        l.Fix is { } fix
                            ? new(fix.Verb, fix.Who, fix.What, fix.Role, $"{list.Title}: {l.Words}")
                            : null,
                        l.Fix?.InWords()
                    )),
                ]
            );

    /// <summary>A list as a table, each line with what would mend it.</summary>
    private static async Task<IResult> Csv(string name, AccessGround ground, [AsParameters] ApiContext context) =>
        Mending.List(name, await ground.FactsAsync(context.Db, context.Cancel), ground.Access) is not { } list
            ? (Reply<Done>)Problems.NotFound("list")
            : await CsvAnswer.WriteAsync(
                context.Http,
                $"{name}.csv",
                ["who", "what", "finding", "change"],
                list.Lines.Select(l => new object?[] { l.Who, l.What, l.Words, l.Fix?.InWords() }).ToAsyncEnumerable(),
                context.Cancel
            );

    private static async Task<Reply<MendingNewsView>> News(string name, WideKeelDb db, CancellationToken cancel) =>
        !Mending.Names.Contains(name) ? Problems.NotFound("list")
        : await db.MendingNews.AsNoTracking().SingleOrDefaultAsync(n => n.List == name, cancel) is { } news
            ? new MendingNewsView(news.Tickets, news.Recipients.Split(' ', StringSplitOptions.RemoveEmptyEntries))
        : new MendingNewsView(false, []);

    /// <summary>From now on: what stands in the list already is no news.</summary>
    private static async Task<Reply<Done>> PutNews(
        string name,
        MendingNewsView request,
        AccessGround ground,
        [AsParameters] ApiContext context
    )
    {
        if (!Mending.Names.Contains(name))
        {
            return Problems.NotFound("list");
        }

        if (request.Recipients.FirstOrDefault(r => !MailAddress.IsOne(r)) is { } wrong)
        {
            return new Refusal("recipient-malformed", "recipients", $"“{wrong}” is no mail address.");
        }

        return await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                var recipients = string.Join(' ', request.Recipients);
                if (!request.Tickets && request.Recipients.Count == 0)
                {
                    await session.Db.MendingNews.Where(n => n.List == name).ExecuteDeleteAsync(context.Cancel);
                    await session.Db.MendingSeen.Where(s => s.List == name).ExecuteDeleteAsync(context.Cancel);
                }
                else if (
                    await session.Db.MendingNews.SingleOrDefaultAsync(n => n.List == name, context.Cancel) is { } known
                )
                {
                    (known.Tickets, known.Recipients) = (request.Tickets, recipients);
                }
                else
                {
                    session.Db.MendingNews.Add(
                        new()
                        {
                            List = name,
                            Tickets = request.Tickets,
                            Recipients = recipients,
                        }
                    );
                    await RememberAsync(session, name, ground, context.Cancel);
                }

                session.Record(
                    "list-watched",
                    new LedgerSubject("access", name),
                    after: new JsonObject { ["tickets"] = request.Tickets, ["recipients"] = recipients }
                );
                return new Done();
            },
            context.Cancel
        );
    }

    private static async Task RememberAsync(
        WriteSession session,
        string name,
        AccessGround ground,
        CancellationToken cancel
    )
    {
        var facts = await ground.FactsAsync(session.Db, cancel);
        session.Db.MendingSeen.AddRange(
            Mending
                .List(name, facts, ground.Access)!
                .Lines.Select(MendingWatch.KeyOf)
                .Distinct()
                .Select(line => new MendingSeen
                {
                    List = name,
                    Line = line,
                    Since = facts.Today,
                })
        );
    }

    private static async Task<Reply<IReadOnlyList<ToxicPairView>>> Pairs(WideKeelDb db, CancellationToken cancel) =>
        (Outcome<IReadOnlyList<ToxicPairView>>)
            (await db.ToxicPairs.AsNoTracking().OrderBy(p => p.Id).ToListAsync(cancel))
                .Select(p => new ToxicPairView(p.Name, p.First, p.FirstRole, p.Second, p.SecondRole))
                .ToList();

    private static async Task<Reply<Done>> PutPairs(
        IReadOnlyList<ToxicPairView> pairs,
        AccessGround ground,
        [AsParameters] ApiContext context
    )
    {
        foreach (var pair in pairs)
        {
            if (string.IsNullOrWhiteSpace(pair.Name))
            {
                return new Refusal("pair-malformed", "pairs", "Each pair needs a name.");
            }

            foreach (var resource in new[] { pair.First, pair.Second })
            {
                if (ground.State.Resources.All(r => r.Id != resource))
                {
                    return new Refusal(
                        "pair-malformed",
                        "pairs",
                        $"{pair.Name}: the directory does not know “{resource}”."
                    );
                }
            }

            if (new[] { pair.FirstRole, pair.SecondRole }.FirstOrDefault(r => !ground.Roles.Contains(r)) is { } role)
            {
                return new Refusal("role-unknown", "pairs", $"{pair.Name}: nobody has the role “{role}” on any place.");
            }
        }

        return await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                await session.Db.ToxicPairs.ExecuteDeleteAsync(context.Cancel);
                session.Db.ToxicPairs.AddRange(
                    pairs.Select(p => new ToxicPairRow
                    {
                        Name = p.Name.Trim(),
                        First = p.First,
                        FirstRole = p.FirstRole,
                        Second = p.Second,
                        SecondRole = p.SecondRole,
                    })
                );
                session.Record(
                    "toxic-pairs-set",
                    new LedgerSubject("access", "toxic-pairs"),
                    after: new JsonObject { ["pairs"] = string.Join(", ", pairs.Select(p => p.Name)) }
                );
                return new Done();
            },
            context.Cancel
        );
    }
}

using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.Access;
using WideKeel.Core.Ledger;
using WideKeel.Server.Notifications;
using WideKeel.Store;
using WideKeel.Store.People;

namespace WideKeel.Server.Access;

/// <summary>
/// Looks at the lists to mend that somebody watches, whenever the directory or the day has changed: each line that was not
/// there before opens a ticket at the connected addresses and informs by message.
/// </summary>
public sealed class MendingWatch(
    IServiceScopeFactory scopes,
    AccessGround ground,
    Writer writer,
    Troubles troubles,
    ILogger<MendingWatch> log
) : BackgroundService
{
    private const string TroubleKey = "lists";
    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(5);
    private object? seen;

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(Pause);
        while (await timer.WaitForNextTickAsync(stoppingToken))
        {
            try
            {
                // What access is computed from is another object as soon as the directory or the day is another.
                var now = ground.Access;
                if (!ReferenceEquals(now, seen))
                {
                    await LookAsync(stoppingToken);
                    seen = now;
                }

                troubles.Clear(TroubleKey);
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                log.LogError(e, "The lists to mend could not be looked at");
                troubles.Report(TroubleKey, "The lists to mend are not watched", e.Message, "/access/mend");
            }
        }
    }

    /// <summary>Compares each watched list with how it was, and says what is new.</summary>
    /// <returns>How many lines are new.</returns>
    public async Task<int> LookAsync(CancellationToken cancel)
    {
        await using (var scope = scopes.CreateAsyncScope())
        {
            if (!await scope.ServiceProvider.GetRequiredService<WideKeelDb>().MendingNews.AnyAsync(cancel))
            {
                return 0;
            }
        }

        var outcome = await writer.RunAsync<int>(
            LedgerActor.Job("lists to mend", null),
            async session =>
            {
                var facts = await ground.FactsAsync(session.Db, cancel);
                var count = 0;
                foreach (var news in await session.Db.MendingNews.ToListAsync(cancel))
                {
                    count += await CompareAsync(session, news, facts, cancel);
                }

                return count;
            },
            cancel
        );
        return outcome.Value;
    }

    private async Task<int> CompareAsync(
        WriteSession session,
        Store.Access.MendingNews news,
        MendingFacts facts,
        CancellationToken cancel
    )
    {
        var list = Mending.List(news.List, facts, ground.Access)!;
        var lines = list.Lines.DistinctBy(KeyOf).ToDictionary(KeyOf);
        var known = await session.Db.MendingSeen.Where(s => s.List == news.List).ToListAsync(cancel);
        session.Db.MendingSeen.RemoveRange(known.Where(k => !lines.ContainsKey(k.Line)));
        var fresh = lines.Keys.Except(known.Select(k => k.Line)).ToList();
        foreach (var line in fresh)
        {
            session.Db.MendingSeen.Add(
                new()
                {
                    List = news.List,
                    Line = line,
                    Since = facts.Today,
                }
            );
            if (news.Tickets)
            {
                Outbox.Tell(session, "access.line", Ticket(list, lines[line]));
            }
        }

        if (fresh.Count > 0)
        {
            Inform(session, news, list, [.. fresh.Select(f => lines[f].Words)], facts);
            session.Record(
                "lines-to-mend",
                new LedgerSubject("access", news.List),
                after: new JsonObject { ["list"] = list.Title, ["new"] = fresh.Count }
            );
        }

        return fresh.Count;
    }

    /// <summary>A line is the same as long as it is about the same people and things, whatever its words count.</summary>
    public static string KeyOf(MendingLine line) => $"{line.Who}|{line.What}|{line.Fix?.Role}";

    private static JsonObject Ticket(MendingList list, MendingLine line) =>
        new()
        {
            ["list"] = list.Name,
            ["title"] = list.Title,
            ["who"] = line.Who,
            ["what"] = line.What,
            ["words"] = line.Words,
            ["mend"] = line.Fix?.InWords(),
        };

    private static void Inform(
        WriteSession session,
        Store.Access.MendingNews news,
        MendingList list,
        IReadOnlyList<string> lines,
        MendingFacts facts
    )
    {
        const int most = 20;
        foreach (var mail in news.Recipients.Split(' ', StringSplitOptions.RemoveEmptyEntries))
        {
            Outbox.Send(
                session,
                new DirectoryPerson { Name = ReachEndpoints.NameOf(facts, mail), Mail = mail },
                null,
                new(
                    "list-to-mend",
                    $"{list.Title}: {Wording.Plural(lines.Count, "new line")}",
                    string.Join('\n', lines.Take(most))
                        + (lines.Count > most ? $"\nand {lines.Count - most} more" : ""),
                    "you are named for this list"
                ),
                $"/access/mend?list={list.Name}"
            );
        }
    }
}

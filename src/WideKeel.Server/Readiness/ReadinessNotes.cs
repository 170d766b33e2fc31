using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Readiness;
using WideKeel.Store;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <summary>
/// Writes the readiness of each framework for today, with what moved it since the day before: after the tests of the
/// morning, and after every change that can move it.
/// </summary>
internal static class ReadinessNotes
{
    public static async Task TakeAsync(WriteSession session, OrganisationCalendar calendar, CancellationToken cancel)
    {
        await session.Db.SaveChangesAsync(cancel);
        var book = await ReadinessBook.LoadAsync(session.Db, calendar, cancel);
        if (book.Frameworks.Count == 0)
        {
            return;
        }

        var ground = book.Ground;
        var former = await FormerAsync(session, book.Today, cancel);
        var days = await session
            .Db.ReadinessDays.Where(d => d.Day == book.Today)
            .ToDictionaryAsync(d => d.FrameworkId, cancel);
        foreach (var framework in book.Frameworks)
        {
            if (!days.TryGetValue(framework.Id, out var day))
            {
                session.Db.ReadinessDays.Add(day = new() { FrameworkId = framework.Id, Day = book.Today });
            }

            day.Readiness = Math.Round(ground.Figure(framework.Code), 6);
            day.Moved = former is null ? "" : Moved(former, ground, framework.Code);
        }

        await WriteAsync(session, book.Today, ground, cancel);
    }

    /// <summary>What moved a framework, one sentence a line; nothing where it was not there before.</summary>
    public static string Moved(ReadinessGround before, ReadinessGround after, string framework) =>
        before.Requirements.ContainsKey(framework)
            ? string.Join('\n', ReadinessMovement.Between(before, after, framework))
            : "";

    private static async Task<ReadinessGround?> FormerAsync(
        WriteSession session,
        LocalDate today,
        CancellationToken cancel
    ) =>
        await session
            .Db.ReadinessGrounds.AsNoTracking()
            .Where(g => g.Day < today)
            .OrderByDescending(g => g.Day)
            .Select(g => g.Text)
            .FirstOrDefaultAsync(cancel)
            is { } text
            ? JsonSerializer.Deserialize<ReadinessGround>(text)
            : null;

    /// <summary>Only the last day before today is ever asked for again.</summary>
    private static async Task WriteAsync(
        WriteSession session,
        LocalDate today,
        ReadinessGround ground,
        CancellationToken cancel
    )
    {
        var text = JsonSerializer.Serialize(ground);
        var last = await session.Db.ReadinessGrounds.Where(g => g.Day < today).MaxAsync(g => (LocalDate?)g.Day, cancel);
        await session.Db.ReadinessGrounds.Where(g => g.Day < last).ExecuteDeleteAsync(cancel);
        if (await session.Db.ReadinessGrounds.SingleOrDefaultAsync(g => g.Day == today, cancel) is { } row)
        {
            row.Text = text;
        }
        else
        {
            session.Db.ReadinessGrounds.Add(new() { Day = today, Text = text });
        }
    }
}

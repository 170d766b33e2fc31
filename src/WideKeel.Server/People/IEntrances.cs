using WideKeel.Store;

namespace WideKeel.Server.People;

/// <summary>
/// A part whose rooms people enter by their groups or roles: it looks before and after each change of people, groups or
/// roles, and tells of whoever may enter now or no longer.
/// </summary>
public interface IEntrances : IContribution
{
    /// <summary>Looks before the change.</summary>
    /// <returns>To be called after it, in the same transaction.</returns>
    Task<Func<Task>> LookAsync(WriteSession session, CancellationToken cancel);
}

internal static class Entrances
{
    /// <summary>Does a change of people, groups or roles between two looks of every part.</summary>
    public static async Task<Core.Outcome<T>> WatchedAsync<T>(
        WriteSession session,
        Func<Task<Core.Outcome<T>>> change,
        CancellationToken cancel
    )
    {
        List<Func<Task>> after = [];
        foreach (var part in session.Services.GetServices<IEntrances>())
        {
            after.Add(await part.LookAsync(session, cancel));
        }

        var done = await change();
        if (done.Refused)
        {
            return done;
        }

        await session.Db.SaveChangesAsync(cancel);
        foreach (var look in after)
        {
            await look();
        }

        return done;
    }
}

using WideKeel.Core;
using WideKeel.Store;

namespace WideKeel.Server.Today;

public static class FindEndpoints
{
    private const int MostLetters = 200;

    public static void MapFind(this IEndpointRouteBuilder api) => api.MapGet("/find", Find).RequiresSignIn();

    private static async Task<Reply<IReadOnlyList<FindHit>>> Find(
        string? q,
        IEnumerable<IFindSource> sources,
        [AsParameters] ApiContext context
    )
    {
        var words = (q ?? "").Trim();
        List<FindHit> hits = [];
        if (words.Length is > 0 and <= MostLetters)
        {
            foreach (var source in sources)
            {
                hits.AddRange(
                    await source.FindAsync(new(words, context.Caller, context.Db, context.Calendar, context.Cancel))
                );
            }
        }

        return (Outcome<IReadOnlyList<FindHit>>)hits;
    }
}

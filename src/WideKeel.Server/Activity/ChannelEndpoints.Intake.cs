using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.Activity;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <content>Lines that are sent or handed over.</content>
public static partial class ChannelEndpoints
{
    /// <summary>
    /// Lines that a program sends with the channel's key: our JSON Lines, OCSF, or the channel's table. Answers 200 when
    /// all were taken or there already, 207 when some were not, each with its line and reason. What it answers for is on
    /// disk, and sending it again adds nothing.
    /// </summary>
    private static async Task<IResult> Take(string name, EventIntake intake, [AsParameters] ApiContext context)
    {
        var hash = ApiKeyAuthentication.ChannelKeyHash(context.Http.Request);
        var channel = hash is null
            ? null
            : await context
                .Db.Channels.AsNoTracking()
                .SingleOrDefaultAsync(c => c.KeyHash == hash && c.Name == name, context.Cancel);
        if (channel is null)
        {
            return (Reply<Done>)
                Refusal.NotSignedIn("key-unknown", null, "Send the key of this channel: Authorization: Bearer wc_….");
        }

        if (!channel.Connected)
        {
            return (Reply<Done>)
                Refusal.Conflict("channel-closed", null, "This channel takes nothing in at the moment.");
        }

        LiftLimit(context.Http);
        var answer = await intake.TakeAsync(
            channel.Id,
            $"{name} over HTTP",
            EventLines.ReadAsync(channel, context.Http.Request.Body, context.Cancel),
            null,
            context.Cancel
        );
        return Answer(answer);
    }

    /// <summary>
    /// A file that a person hands over, of which the events of a range of days are taken. What the channel would have
    /// let go already is refused, and counted.
    /// </summary>
    /// <param name="file">The file's name, for the ledger.</param>
    private static async Task<IResult> BackFill(
        long id,
        string file,
        DateOnly? from,
        DateOnly? to,
        EventIntake intake,
        [AsParameters] ApiContext context
    )
    {
        var channel = await context.Db.Channels.AsNoTracking().SingleOrDefaultAsync(c => c.Id == id, context.Cancel);
        if (channel is null || channel.Feed == ChannelFeed.Ledger)
        {
            return (Reply<Done>)Problems.NotFound("channel that takes files");
        }

        if (from > to)
        {
            return (Reply<Done>)new Refusal("range-malformed", "from", "The range ends before it begins.");
        }

        LiftLimit(context.Http);
        var answer = await intake.TakeAsync(
            id,
            file,
            EventLines.ReadAsync(channel, context.Http.Request.Body, context.Cancel),
            e => e.Time.InUtc().Date.ToDateOnly() is var day && !(day < from) && !(day > to),
            context.Cancel
        );
        await context.Writer.RunAsync(
            context.Caller.Actor,
            session =>
            {
                session.Record(
                    "back-filled",
                    Subject(channel),
                    after: new JsonObject
                    {
                        ["file"] = file,
                        ["from"] = from?.ToString("O", CultureInfo.InvariantCulture),
                        ["to"] = to?.ToString("O", CultureInfo.InvariantCulture),
                        ["taken"] = answer.Taken,
                        ["duplicates"] = answer.Duplicates,
                        ["tooOld"] = answer.TooOld,
                        ["rejected"] = answer.Rejected,
                    }
                );
                return Task.CompletedTask;
            },
            context.Cancel
        );
        return Answer(answer);
    }

    private static IResult Answer(IntakeAnswer answer) =>
        Results.Json(
            answer,
            Json.Options,
            statusCode: answer.Rejected + answer.TooOld > 0 ? StatusCodes.Status207MultiStatus : StatusCodes.Status200OK
        );

    /// <summary>Logs are long; lines are bounded one by one, and nothing is held that was written.</summary>
    private static void LiftLimit(HttpContext http)
    {
        if (http.Features.Get<IHttpMaxRequestBodySizeFeature>() is { IsReadOnly: false } limit)
        {
            limit.MaxRequestBodySize = null;
        }
    }
}

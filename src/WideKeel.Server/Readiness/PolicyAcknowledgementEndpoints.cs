using System.Globalization;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Server.People;

namespace WideKeel.Server.Readiness;

/// <param name="Asked">How many people.</param>
public sealed record PolicyAskedOf(int Asked);

/// <summary>Acknowledgements of policies: requested, reminded of, and listed.</summary>
internal static class PolicyAcknowledgementEndpoints
{
    public static void MapPolicyAcknowledgements(this IEndpointRouteBuilder api)
    {
        api.MapPost("/policies/{id:long}/requests", Ask).Requires(Right.ManageReadiness);
        api.MapPost("/policies/{id:long}/reminders", Remind).Requires(Right.ManageReadiness);
        api.MapGet("/policies/{id:long}/acknowledgements.csv", Csv).Requires(Right.ReadReadiness);
    }

    private static async Task<Reply<PolicyAskedOf>> Ask(
        long id,
        OrganisationDirectory directory,
        [AsParameters] ApiContext context
    ) => await AskAsync(id, directory, context, (asking, policy) => asking.AskAsync(policy, context.Cancel));

    private static async Task<Reply<PolicyAskedOf>> Remind(
        long id,
        OrganisationDirectory directory,
        [AsParameters] ApiContext context
    ) =>
        await AskAsync(
            id,
            directory,
            context,
            (asking, policy) => asking.RemindAsync(policy, all: true, context.Cancel)
        );

    private static async Task<Outcome<PolicyAskedOf>> AskAsync(
        long id,
        OrganisationDirectory directory,
        ApiContext context,
        Func<PolicyAsking, PolicyStanding, Task<int>> ask
    ) =>
        await context.Writer.RunAsync<PolicyAskedOf>(
            context.Caller.Actor,
            async session =>
            {
                if (
                    await PolicyBook.Whole(session.Db).SingleOrDefaultAsync(p => p.Id == id, context.Cancel)
                    is not { } row
                )
                {
                    return Problems.NotFound("policy");
                }

                var policy = PolicyBook.Of(row, directory.State, context.Calendar.Today);
                return policy.InForce is null
                    ? Refusal.Conflict("not-in-force", null, "No version is in force: nobody can be asked yet.")
                    : new PolicyAskedOf(await ask(new PolicyAsking(session, context.Calendar), policy));
            },
            context.Cancel
        );

    private static readonly string[] CsvNames =
    [
        "name",
        "mail",
        "unit",
        "state",
        "version",
        "asked on",
        "due on",
        "reminders",
        "opened at",
        "acknowledged at",
    ];

    private static async Task<IResult> Csv(
        long id,
        OrganisationDirectory directory,
        [AsParameters] ApiContext context
    ) =>
        await PolicyBook.Whole(context.Db).AsNoTracking().SingleOrDefaultAsync(p => p.Id == id, context.Cancel)
            is { } row
            ? await CsvAnswer.WriteAsync(
                context.Http,
                string.Create(CultureInfo.InvariantCulture, $"{row.Code}-acknowledgements.csv"),
                CsvNames,
                PolicyBook
                    .Of(row, directory.State, context.Calendar.Today)
                    .Readers.Select(r => PolicyEndpoints.View(r, row))
                    .Select(r =>
                        new object?[]
                        {
                            r.Name,
                            r.Mail,
                            r.Unit,
                            r.State,
                            r.Number,
                            r.AskedOn,
                            r.DueOn,
                            r.Reminders,
                            r.OpenedAt,
                            r.AcknowledgedAt,
                        }
                    )
                    .ToAsyncEnumerable(),
                context.Cancel
            )
            : (Reply<Done>)Problems.NotFound("policy");
}

using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Content;

/// <summary>Hears of a container that is given to another unit, in the change that does it.</summary>
internal interface IContainerMove : IContribution
{
    /// <param name="unit">Paths.</param>
    Task MovedAsync(WriteSession session, Container container, (string From, string To) unit, CancellationToken cancel);
}

/// <summary>Gives a container to a unit. Which blankets cover it may go by its unit.</summary>
internal sealed record AssignContainer(long ContainerId, long Version, long UnitId);

internal sealed class AssignContainerHandler : ActHandler<AssignContainer, Done>
{
    public static AssignContainerHandler Instance { get; } = new();

    public override string Name => "assign-container";

    public override bool MayAgree(Caller caller, string unit) => caller.May(Right.ManageSources);

    public override async Task<ActSubject> SubjectAsync(ActContext context, AssignContainer act)
    {
        var (container, unit) = await LoadAsync(context, act);
        return new($"Give “{container!.Name}” to {unit!.Name}", context.Caller.Root.Value);
    }

    public override async Task<Refusal?> CheckAsync(ActContext context, AssignContainer act)
    {
        if (!context.Caller.May(Right.ManageSources))
        {
            return Refusal.Forbidden("not-allowed", null, "Your role does not include sources.");
        }

        var (container, unit) = await LoadAsync(context, act);
        if (container is null || unit is null)
        {
            return Problems.NotFound(container is null ? "container" : "unit");
        }

        if (container.Version != act.Version)
        {
            return Problems.Stale;
        }

        var foreign = await (
            from i in context.Db.Items
            join s in context.Db.Series on i.SeriesId equals s.Id
            join u in context.Db.Units on s.UnitId equals u.Id
            where i.ContainerId == act.ContainerId && i.DestroyedAt == null && !unit.Path.StartsWith(u.Path)
            select s.Code
        )
            .Distinct()
            .ToListAsync(context.Cancel);
        return foreign.Count == 0
            ? null
            : new(
                "series-left-behind",
                "unitId",
                $"Items in it are filed under {string.Join(", ", foreign)}, which do not cover {unit.Name}. File them anew first."
            );
    }

    public override async Task<IReadOnlyDictionary<string, string>> RestsOnAsync(ActGround ground, AssignContainer act)
    {
        var (container, _) = await LoadAsync(ground, act);
        return container is null
            ? new Dictionary<string, string>()
            : new Dictionary<string, string>
            {
                [$"“{container.Name}”"] = container.Version.ToString(CultureInfo.InvariantCulture),
            };
    }

    public override async Task<IReadOnlyList<ActPart>> PartsAsync(ActGround ground, AssignContainer act)
    {
        var (container, unit) = await LoadAsync(ground, act);
        return
        [
            new(
                $"Unit of “{container!.Name}”",
                await ground
                    .Db.Units.Where(u => u.Id == container.UnitId)
                    .Select(u => u.Name)
                    .SingleAsync(ground.Cancel),
                unit!.Name
            ),
        ];
    }

    public override async Task<Outcome<Done>> WriteAsync(ActContext context, AssignContainer act, IFigures? figures)
    {
        var session = context.Session;
        var container = await session.Db.Containers.SingleAsync(c => c.Id == act.ContainerId, context.Cancel);
        var from = await session.Db.Units.SingleAsync(u => u.Id == container.UnitId, context.Cancel);
        var to = await session.Db.Units.SingleAsync(u => u.Id == act.UnitId, context.Cancel);
        session.Record(
            "assigned",
            new("container", Wording.Id(container.Id), to.Path),
            new JsonObject { ["unitId"] = from.Id },
            new JsonObject { ["unitId"] = to.Id, ["unit"] = to.Name },
            context.Asker is null ? null : context.Why("")
        );
        (container.UnitId, container.Version) = (to.Id, container.Version + 1);
        await session.Db.SaveChangesAsync(context.Cancel);
        foreach (var part in session.Services.GetServices<IContainerMove>())
        {
            await part.MovedAsync(session, container, (from.Path, to.Path), context.Cancel);
        }

        ItemScan.WriteStandings(
            session,
            await Ruling.LoadAsync(session.Db, context.Calendar.Evaluator),
            "i.ContainerId = $container",
            c => c.Parameters.AddWithValue("$container", container.Id)
        );
        return new Done();
    }

    private static async Task<(Container? Container, Store.People.Unit? Unit)> LoadAsync(
        ActGround ground,
        AssignContainer act
    ) =>
        (
            await ground.Db.Containers.AsNoTracking().SingleOrDefaultAsync(c => c.Id == act.ContainerId, ground.Cancel),
            await ground.Db.Units.AsNoTracking().SingleOrDefaultAsync(u => u.Id == act.UnitId, ground.Cancel)
        );
}

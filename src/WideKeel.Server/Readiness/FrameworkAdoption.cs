using System.Globalization;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using CsvHelper;
using CsvHelper.Configuration;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Core.Readiness;
using WideKeel.Store;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <param name="Map">Controls that answer a like requirement answer the new one too.</param>
public sealed record AdoptRequest(string Code, bool Map = false);

/// <param name="Controls">What answers it already; empty where nothing does.</param>
/// <param name="Through">By which requirements, as framework/requirement.</param>
public sealed record PreviewedRequirement(
    string Code,
    string Group,
    string Title,
    IReadOnlyList<string> Controls,
    IReadOnlyList<string> Through
);

/// <summary>A framework before it is adopted.</summary>
/// <param name="PassedOver">What the file says besides and is not kept here, a sentence each.</param>
/// <param name="Answered">How many of its requirements a control would answer at once.</param>
public sealed record AdoptionPreview(
    string Code,
    string Title,
    string Version,
    bool Adopted,
    int Answered,
    IReadOnlyList<string> PassedOver,
    IReadOnlyList<PreviewedRequirement> Requirements
);

public sealed record CrosswalkLinkView(string FromFramework, string From, string ToFramework, string To);

/// <summary>
/// Frameworks come and go as OSCAL, catalogs and profiles; before one is adopted it shows what is answered already.
/// </summary>
public static class FrameworkAdoption
{
    private const long MostBytes = 60_000_000;

    private static readonly string[] CrosswalkNames = ["from framework", "from", "to framework", "to"];

    public static void MapFrameworkAdoption(this IEndpointRouteBuilder api)
    {
        api.MapPost("/frameworks", Adopt).Requires(Right.ManageReadiness);
        api.MapGet("/frameworks/preview", Preview).Requires(Right.ReadReadiness);
        api.MapPost("/frameworks/preview", PreviewOscal).Requires(Right.ManageReadiness).TakesUpTo(MostBytes);
        api.MapPost("/frameworks/oscal", Import).Requires(Right.ManageReadiness).TakesUpTo(MostBytes);
        api.MapGet("/frameworks/{code}/oscal", Export).Requires(Right.ReadReadiness);
        api.MapGet("/crosswalk", Links).Requires(Right.ReadReadiness);
        api.MapGet("/crosswalk.csv", LinksCsv).Requires(Right.ReadReadiness);
        api.MapPut("/crosswalk/csv", PutLinks).Requires(Right.ManageReadiness).TakesUpTo(MostBytes);
    }

    private static async Task<Reply<AdoptionPreview>> Preview(string code, [AsParameters] ApiContext context) =>
        FrameworkCatalog.Shipped.FirstOrDefault(c => c.Code == code) is { } catalog
            ? await PreviewAsync(catalog, context)
            : Problems.NotFound("framework in the library");

    private static async Task<Reply<AdoptionPreview>> PreviewOscal(
        HttpRequest request,
        [AsParameters] ApiContext context
    )
    {
        var read = await ReadAsync(request, context);
        return read.Refusal is { } refusal ? refusal : await PreviewAsync(read.Value.Chosen, context);
    }

    private static async Task<AdoptionPreview> PreviewAsync(Catalog catalog, ApiContext context)
    {
        var found = Crosswalk.Preview(
            catalog,
            await LinksAsync(context.Db, context.Cancel),
            await AnswersAsync(context.Db, context.Cancel)
        );
        return new(
            catalog.Code,
            catalog.Title,
            catalog.Version,
            await context.Db.Frameworks.AnyAsync(f => f.Code == catalog.Code, context.Cancel),
            found.Count(r => r.Controls.Count > 0),
            catalog.PassedOver,
            [
                .. found.Select(r => new PreviewedRequirement(
                    r.Requirement.Code,
                    r.Requirement.Group,
                    r.Requirement.Title,
                    r.Controls,
                    [.. r.Through.Select(t => t.ToString())]
                )),
            ]
        );
    }

    /// <summary>The links that ship, and those that were taken in.</summary>
    private static async Task<IReadOnlyList<CrosswalkLink>> LinksAsync(WideKeelDb db, CancellationToken cancel) =>
        [
            .. Crosswalk
                .Shipped.Concat(
                    (await db.Crosswalk.AsNoTracking().ToListAsync(cancel)).Select(l => new CrosswalkLink(
                        new(l.From, l.FromCode),
                        new(l.To, l.ToCode)
                    ))
                )
                .Distinct(),
        ];

    /// <summary>Codes of controls by the requirement that they answer.</summary>
    private static async Task<ILookup<RequirementCode, string>> AnswersAsync(WideKeelDb db, CancellationToken cancel) =>
        (
            await (
                from map in db.ControlMappings
                join control in db.Controls on map.ControlId equals control.Id
                join requirement in db.Requirements on map.RequirementId equals requirement.Id
                join framework in db.Frameworks on requirement.FrameworkId equals framework.Id
                select new
                {
                    Framework = framework.Code,
                    Requirement = requirement.Code,
                    Control = control.Code,
                }
            ).ToListAsync(cancel)
        ).ToLookup(a => new RequirementCode(a.Framework, a.Requirement), a => a.Control);

    private static async Task<Reply<Done>> Adopt(AdoptRequest request, [AsParameters] ApiContext context) =>
        FrameworkCatalog.Shipped.FirstOrDefault(c => c.Code == request.Code) is { } catalog
            ? await AdoptAsync(catalog, [], request.Map, context)
            : Problems.NotFound("framework in the library");

    /// <param name="map">Controls that answer a like requirement answer the new one too.</param>
    private static async Task<Reply<Done>> Import(bool? map, HttpRequest request, [AsParameters] ApiContext context)
    {
        var read = await ReadAsync(request, context);
        return read.Refusal is { } refusal
            ? refusal
            : await AdoptAsync(read.Value.Chosen, read.Value.Imports, map == true, context);
    }

    private static async Task<Outcome<(Catalog Chosen, IReadOnlyList<ProfileImport> Imports)>> ReadAsync(
        HttpRequest request,
        ApiContext context
    )
    {
        using var text = new StreamReader(request.Body, Encoding.UTF8);
        return OscalProfile.Read(
            await text.ReadToEndAsync(context.Cancel),
            await KnownAsync(context.Db, context.Cancel)
        );
    }

    /// <summary>What a profile may choose from: the frameworks that are adopted, and those that ship.</summary>
    private static async Task<IReadOnlyCollection<Catalog>> KnownAsync(WideKeelDb db, CancellationToken cancel)
    {
        var adopted = (await db.Frameworks.AsNoTracking().Include(f => f.Requirements).ToListAsync(cancel)).ConvertAll(
            CatalogOf
        );
        return [.. adopted, .. FrameworkCatalog.Shipped.Where(c => adopted.TrueForAll(a => a.Code != c.Code))];
    }

    private static Catalog CatalogOf(FrameworkRow row) =>
        new(
            row.Code,
            row.Title,
            row.Version,
            row.Source,
            [.. row.Requirements.OrderBy(r => r.Id).Select(r => new CatalogRequirement(r.Code, r.Group, r.Title))]
        );

    private static async Task<Outcome<Done>> AdoptAsync(
        Catalog catalog,
        IReadOnlyList<ProfileImport> imports,
        bool map,
        ApiContext context
    ) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                if (await session.Db.Frameworks.AnyAsync(f => f.Code == catalog.Code, context.Cancel))
                {
                    return Refusal.Conflict("framework-adopted", "code", $"{catalog.Title} is adopted already.");
                }

                var row = new FrameworkRow
                {
                    Code = catalog.Code,
                    Title = catalog.Title,
                    Version = catalog.Version,
                    Source = catalog.Source,
                    AdoptedAt = session.Now,
                    Imports = imports.Count == 0 ? "" : JsonSerializer.Serialize(imports),
                };
                row.Requirements.AddRange(
                    catalog.Requirements.Select(r => new RequirementRow
                    {
                        Code = r.Code,
                        Title = r.Title,
                        Group = r.Group,
                    })
                );
                session.Db.Frameworks.Add(row);
                var mapped = map ? await MapAsync(session, row, catalog, context.Cancel) : 0;
                session.Record(
                    "adopted",
                    new LedgerSubject("framework", catalog.Code),
                    after: new JsonObject
                    {
                        ["title"] = catalog.Title,
                        ["requirements"] = catalog.Requirements.Count,
                        ["mapped"] = mapped,
                    }
                );
                await ReadinessNotes.TakeAsync(session, context.Calendar, context.Cancel);
                return new Done();
            },
            context.Cancel
        );

    /// <summary>Controls that answer a like requirement answer the new one too.</summary>
    /// <returns>How many requirements have a control now.</returns>
    private static async Task<int> MapAsync(
        WriteSession session,
        FrameworkRow row,
        Catalog catalog,
        CancellationToken cancel
    )
    {
        var found = Crosswalk.Preview(
            catalog,
            await LinksAsync(session.Db, cancel),
            await AnswersAsync(session.Db, cancel)
        );
        await session.Db.SaveChangesAsync(cancel);
        var ids = row.Requirements.ToDictionary(r => r.Code, r => r.Id);
        var controls = await session.Db.Controls.ToDictionaryAsync(c => c.Code, c => c.Id, cancel);
        session.Db.ControlMappings.AddRange(
            found.SelectMany(r =>
                r.Controls.Select(c => new ControlMapping
                {
                    ControlId = controls[c],
                    RequirementId = ids[r.Requirement.Code],
                })
            )
        );
        return found.Count(r => r.Controls.Count > 0);
    }

    /// <param name="form">catalog for all of it, profile for the choice that it is; catalog where there is none.</param>
    private static async Task<IResult> Export(
        string code,
        string? form,
        IClock clock,
        [AsParameters] ApiContext context
    )
    {
        var row = await context
            .Db.Frameworks.AsNoTracking()
            .Include(f => f.Requirements)
            .SingleOrDefaultAsync(f => f.Code == code, context.Cancel);
        if (row is null)
        {
            return (Reply<Done>)Problems.NotFound("framework");
        }

        if (form is not (null or "" or "catalog" or "profile"))
        {
            return (Reply<Done>)new Refusal("choice-unknown", "form", $"“{form}” is no form; catalog and profile are.");
        }

        var catalog = CatalogOf(row);
        var modified = InstantPattern.General.Format(clock.GetCurrentInstant());
        var document =
            form == "profile"
                ? OscalProfile.Write(row.Title, row.Version, ImportsOf(row, catalog), Guid.NewGuid(), modified)
                : FrameworkCatalog.WriteOscal(catalog, Guid.NewGuid(), modified);
        return Results.File(
            Encoding.UTF8.GetBytes(document.ToJsonString()),
            "application/json",
            form == "profile" ? $"{code}.profile.oscal.json" : $"{code}.oscal.json"
        );
    }

    /// <summary>What the framework chose; of one that is no profile, all of itself.</summary>
    private static List<ProfileImport> ImportsOf(FrameworkRow row, Catalog catalog) =>
        row.Imports.Length > 0
            ? JsonSerializer.Deserialize<List<ProfileImport>>(row.Imports)!
            : [new(row.Code, [.. catalog.Requirements.Select(r => r.Code)])];

    private static async Task<Reply<IReadOnlyList<CrosswalkLinkView>>> Links([AsParameters] ApiContext context) =>
        (Outcome<IReadOnlyList<CrosswalkLinkView>>)
            (await LinksAsync(context.Db, context.Cancel))
                .Select(l => new CrosswalkLinkView(l.From.Framework, l.From.Code, l.To.Framework, l.To.Code))
                .ToList();

    private static async Task<IResult> LinksCsv([AsParameters] ApiContext context) =>
        await CsvAnswer.WriteAsync(
            context.Http,
            "crosswalk.csv",
            CrosswalkNames,
            (await LinksAsync(context.Db, context.Cancel))
                .Select(l => new object?[] { l.From.Framework, l.From.Code, l.To.Framework, l.To.Code })
                .ToAsyncEnumerable(),
            context.Cancel
        );

    /// <summary>Replaces the links that were taken in; those that ship stay.</summary>
    private static async Task<Reply<Done>> PutLinks(HttpRequest request, [AsParameters] ApiContext context)
    {
        using var reader = new StreamReader(request.Body, Encoding.UTF8);
        var text = await reader.ReadToEndAsync(context.Cancel);
        if (CsvQuoting.Check(text, "crosswalk") is { } astray)
        {
            return astray;
        }

        var read = Crosswalk.Read(Rows(text));
        return read.Refusal is { } refusal
            ? refusal
            : await context.Writer.RunAsync<Done>(
                context.Caller.Actor,
                async session =>
                {
                    await session.Db.Crosswalk.ExecuteDeleteAsync(context.Cancel);
                    session.Db.Crosswalk.AddRange(
                        read.Value.Select(l => new CrosswalkRow
                        {
                            From = l.From.Framework,
                            FromCode = l.From.Code,
                            To = l.To.Framework,
                            ToCode = l.To.Code,
                        })
                    );
                    session.Record(
                        "crosswalk-set",
                        new LedgerSubject("framework", "crosswalk"),
                        after: new JsonObject { ["links"] = read.Value.Count }
                    );
                    return new Done();
                },
                context.Cancel
            );
    }

    private static IEnumerable<(int, IReadOnlyDictionary<string, string>)> Rows(string table)
    {
        using var csv = new CsvReader(
            new StringReader(table),
            new CsvConfiguration(CultureInfo.InvariantCulture)
            {
                DetectDelimiter = true,
                MissingFieldFound = null,
                BadDataFound = null,
                PrepareHeaderForMatch = h => h.Header.Trim().ToLowerInvariant(),
            }
        );
        if (!csv.Read() || !csv.ReadHeader())
        {
            yield break;
        }

        while (csv.Read())
        {
            yield return (
                csv.Parser.RawRow,
                CrosswalkNames.ToDictionary(n => n, n => csv.GetField(n) ?? "", StringComparer.Ordinal)
            );
        }
    }
}

using Microsoft.EntityFrameworkCore;
using WideKeel.Core.Access;

namespace WideKeel.Server.Access;

/// <summary>Whether access is as it should be: the lists to mend, and the reviews, as shares.</summary>
internal sealed class AccessMeasures(AccessGround ground) : IMeasureSource
{
    public IReadOnlyList<Measure> Measures =>
        [
            new(
                "second-factor",
                "People with a second factor",
                "Accounts of people and guests who are there and have registered a second factor.",
                "access",
                SecondFactorAsync
            ),
            new(
                "leavers-without-access",
                "Leavers without access",
                "People who have left and are in no group and hold no grant.",
                "people",
                LeaversAsync
            )
            {
                NothingIsRight = true,
            },
            new(
                "not-open-to-anyone",
                "Places that are not open to anyone",
                "Places without a link that opens without a sign-in.",
                "access",
                OpenAsync
            ),
            new(
                "links-with-an-end",
                "Outside links with an end",
                "Links to anyone that have a last day.",
                "access",
                LinksAsync
            )
            {
                NothingIsRight = true,
            },
            new(
                "owners-named",
                "Places and groups with an owner",
                "Places and groups that somebody answers for who is still there.",
                "access",
                OwnersAsync
            ),
            new(
                "no-toxic-pairs",
                "Nobody with a toxic pair",
                "Pairs of roles that nobody should have together, without anybody who has both.",
                "access",
                ToxicAsync
            ),
            new(
                "consents-narrow",
                "Consents that are narrow and used",
                "Consents of applications that reach no more than they need and were used lately.",
                "suppliers",
                ConsentsAsync
            )
            {
                NothingIsRight = true,
            },
            new(
                "guests-with-sponsor",
                "Guests whose sponsor is there",
                "Guests for whom somebody answers who has not left.",
                "people",
                GuestsAsync
            )
            {
                NothingIsRight = true,
            },
            new(
                "reviews-in-time",
                "Review lines decided by somebody",
                "Lines of ended rounds that a person decided, and not silence.",
                "access",
                a => LinesAsync(a, l => !l.BySilence, l => l.BySilence ? "Nobody answered." : $"{l.DecidedBy} decided.")
            ),
            new(
                "removals-carried-out",
                "Removals carried out",
                "Removals of ended rounds that the directory shows.",
                "access",
                a =>
                    LinesAsync(
                        a,
                        l => l.Decision != LineDecision.Remove || l.Applied,
                        l => l.Failure ?? (l.Applied ? "The directory shows it." : "Kept.")
                    )
            )
            {
                NothingIsRight = true,
            },
        ];

    private Task<IReadOnlyList<MeasuredSubject>> SecondFactorAsync(MeasureQuestion asked) =>
        Answer(
            ground
                .State.People.Where(p => p.Kind != "service" && !(AccessGround.DayOf(p.Left) <= asked.Calendar.Today))
                .Select(p => new MeasuredSubject(
                    p.Id,
                    p.Name,
                    p.Unit,
                    p.SecondFactor,
                    p.SecondFactor ? "Has a second factor." : "Signs in with a password alone.",
                    PersonLink(p.Id)
                ))
        );

    private Task<IReadOnlyList<MeasuredSubject>> LeaversAsync(MeasureQuestion asked) =>
        Answer(
            ground
                .State.People.Where(p => AccessGround.DayOf(p.Left) <= asked.Calendar.Today)
                .Select(p =>
                {
                    var held =
                        ground.State.Groups.Count(g => g.Members.Contains(p.Id))
                        + ground.State.Grants.Count(g => g.To == p.Id);
                    return new MeasuredSubject(
                        p.Id,
                        p.Name,
                        p.Unit,
                        held == 0,
                        held == 0
                            ? "Nothing is left."
                            : $"In {Wording.Plural(held, "group or grant", "groups or grants")} still.",
                        PersonLink(p.Id)
                    );
                })
        );

    private Task<IReadOnlyList<MeasuredSubject>> OpenAsync(MeasureQuestion asked) =>
        Answer(
            ground
                .State.Resources.Select(r =>
                    (
                        Place: r,
                        Open: r.Links.Any(l => l.To == EffectiveAccess.Anyone && !l.HasEnded(asked.Calendar.Today))
                    )
                )
                .Select(r => new MeasuredSubject(
                    r.Place.Id,
                    r.Place.Name,
                    "",
                    !r.Open,
                    r.Open ? "Opens to anyone with the link." : "No such link.",
                    PlaceLink(r.Place.Id)
                ))
        );

    private Task<IReadOnlyList<MeasuredSubject>> LinksAsync(MeasureQuestion asked) =>
        Answer(
            from r in ground.State.Resources
            from l in r.Links
            where l.To == EffectiveAccess.Anyone && !l.HasEnded(asked.Calendar.Today)
            select new MeasuredSubject(
                $"{r.Id} {l.Role}",
                r.Name,
                "",
                l.Ends is not null,
                l.Ends is null ? "Has no end." : $"Ends on {l.Ends}.",
                PlaceLink(r.Id)
            )
        );

    private async Task<IReadOnlyList<MeasuredSubject>> OwnersAsync(MeasureQuestion asked)
    {
        var bare = await LinesOfAsync("ownerless", asked);
        return
        [
            .. ground
                .State.Resources.Where(r => r.Parent is null)
                .Select(r => Subject(r.Id, r.Name, bare.Any(l => l.What == r.Id), PlaceLink(r.Id))),
            .. ground.State.Groups.Select(g =>
                Subject(g.Id, g.Name, bare.Any(l => l.Who == g.Id), $"/access?group={Uri.EscapeDataString(g.Id)}")
            ),
        ];

        static MeasuredSubject Subject(string id, string name, bool bare, string link) =>
            new(id, name, "", !bare, bare ? "Nobody answers for it." : "Somebody answers for it.", link);
    }

    private async Task<IReadOnlyList<MeasuredSubject>> ToxicAsync(MeasureQuestion asked)
    {
        var found = await LinesOfAsync("toxic", asked);
        var pairs = await asked.Db.ToxicPairs.AsNoTracking().ToListAsync(asked.Cancel);
        return
        [
            .. pairs.Select(p =>
            {
                var who = found.Where(l => l.What == p.Second).Select(l => l.Who).ToList();
                return new MeasuredSubject(
                    Wording.Id(p.Id),
                    p.Name,
                    "",
                    who.Count == 0,
                    who.Count == 0 ? "Nobody has both." : $"{string.Join(", ", who)} have both.",
                    "/access/mend?list=toxic"
                );
            }),
        ];
    }

    private async Task<IReadOnlyList<MeasuredSubject>> ConsentsAsync(MeasureQuestion asked)
    {
        var wrong = await LinesOfAsync("consents", asked);
        return
        [
            .. ground.State.Applications.SelectMany(a =>
                a.Consents.Select(c =>
                {
                    var line = wrong.FirstOrDefault(l => l.What == a.Id && l.Who == c.By);
                    return new MeasuredSubject(
                        $"{a.Id} {c.By}",
                        $"{a.Name}, {c.By}",
                        "",
                        line is null,
                        line?.Words ?? $"May {string.Join(", ", c.Scopes)}.",
                        "/access/mend?list=consents"
                    );
                })
            ),
        ];
    }

    private Task<IReadOnlyList<MeasuredSubject>> GuestsAsync(MeasureQuestion asked)
    {
        var there = ground
            .State.People.Where(p => !(AccessGround.DayOf(p.Left) <= asked.Calendar.Today))
            .Select(p => p.Id)
            .ToHashSet();
        return Answer(
            ground
                .State.People.Where(p => p.Kind == "guest")
                .Select(p => new MeasuredSubject(
                    p.Id,
                    p.Name,
                    "",
                    p.Sponsor is not null && there.Contains(p.Sponsor),
                    p.Sponsor is null ? "Nobody answers for this guest." : $"{p.Sponsor} answers for this guest.",
                    PersonLink(p.Id)
                ))
        );
    }

    private static async Task<IReadOnlyList<MeasuredSubject>> LinesAsync(
        MeasureQuestion asked,
        Func<Store.Access.ReviewLine, bool> right,
        Func<Store.Access.ReviewLine, string> why
    )
    {
        var rounds = await asked
            .Db.ReviewRounds.AsNoTracking()
            .Include(r => r.Lines)
            .Where(r => r.EndedAt != null)
            .ToListAsync(asked.Cancel);
        return
        [
            .. rounds.SelectMany(r =>
                r.Lines.Select(l => new MeasuredSubject(
                    Wording.Id(l.Id),
                    $"{l.Person} on {l.What}",
                    "",
                    right(l),
                    why(l),
                    $"/access/reviews?review={Wording.Id(r.ReviewId)}"
                ))
            ),
        ];
    }

    private async Task<IReadOnlyList<MendingLine>> LinesOfAsync(string list, MeasureQuestion asked) =>
        Mending.List(list, await ground.FactsAsync(asked.Db, asked.Cancel), ground.Access)!.Lines;

    private static Task<IReadOnlyList<MeasuredSubject>> Answer(IEnumerable<MeasuredSubject> subjects) =>
        Task.FromResult<IReadOnlyList<MeasuredSubject>>([.. subjects]);

    private static string PersonLink(string id) => $"/access?person={Uri.EscapeDataString(id)}";

    private static string PlaceLink(string id) => $"/access?resource={Uri.EscapeDataString(id)}";
}

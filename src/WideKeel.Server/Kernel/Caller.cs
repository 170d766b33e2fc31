using System.Security.Claims;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.CommandLine;
using WideKeel.Core.Ledger;
using WideKeel.Core.Matters;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Matters;
using WideKeel.Store.People;

namespace WideKeel.Server.Kernel;

/// <summary>
/// Who is asking: loaded from the database at every request, so that a right taken away is gone at once. Units are
/// resolved here, and nowhere else, into what the person may see.
/// </summary>
public sealed class Caller
{
    private IReadOnlyDictionary<long, UnitPath> units = new Dictionary<long, UnitPath>();
    private IReadOnlySet<Right>? scopes;

    public long PersonId { get; private set; }

    public string Name { get; private set; } = "";

    public string Mail { get; private set; } = "";

    public string? Address { get; private set; }

    public IReadOnlyList<Remit> Remits { get; private set; } = [];

    /// <summary>
    /// The matters of which the caller is a member, directly or through groups, with the part in each.
    /// </summary>
    public IReadOnlyDictionary<long, MemberPart> Matters { get; private set; } = new Dictionary<long, MemberPart>();

    public UnitPath Root { get; private set; } = new("/");

    public bool SignedIn => PersonId != 0;

    /// <summary>The row of the browser's session; null where a key asks.</summary>
    public long? SessionId { get; private set; }

    /// <summary>A program asks with a key: it can do what its scopes say, and nothing about keys.</summary>
    public bool ByKey => scopes is not null;

    /// <summary>A role requires one-time codes and the caller has none: they are set up before anything else.</summary>
    public bool FactorIsMissing { get; private set; }

    /// <summary>Name and beginning of the key that asks; null in a session.</summary>
    private string? key;

    /// <summary>
    /// The caller, and everybody whose account the caller made or reset, or who made or reset the caller's, as long as its
    /// owner has not chosen a password by a mailed invitation: none of them is a second person beside another.
    /// </summary>
    public IReadOnlyCollection<long> Selves { get; private set; } = [];

    public LedgerActor Actor =>
        SignedIn ? new(Name, null, Address, PersonId) { Via = key } : new("nobody", null, Address);

    /// <summary>Fills the caller for this request. A person who is turned off, or has left, is nobody.</summary>
    public async Task LoadAsync(HttpContext http, WideKeelDb db, LocalDate today)
    {
        Address = NetworkAddress.Of(http);
        if (!long.TryParse(http.User.FindFirstValue(ClaimTypes.NameIdentifier), out var id))
        {
            return;
        }

        scopes = http.User.FindFirstValue("scopes") is { } words ? RightsPolicy.Read(words) : null;
        key = http.User.FindFirstValue("key");
        if (ByKey)
        {
            await LoadAsync(id, db, today);
            return;
        }

        // A cookie stands for a session that is still open, and for the password of that time.
        var hash = ContentHash.Of(http.User.FindFirstValue("session") ?? "");
        var account = await AccountFacts.LoadAsync(db, id, hash, today);
        if (account is { SessionId: { } session } && account.Stamp == (http.User.FindFirstValue("stamp") ?? ""))
        {
            await FillAsync(account, db);
            // A password change or a switched-off account ends the cookies that were given out before.
            SessionId = SignedIn ? session : null;
            FactorIsMissing = SignedIn && !account.HasFactor && FactorRoles.AreAmong(account.FactorRoles, Remits);
        }
    }

    /// <summary>Fills the caller with one person, who is not asking from a browser.</summary>
    public async Task LoadAsync(long id, WideKeelDb db, LocalDate today)
    {
        if (await AccountFacts.LoadAsync(db, id, "", today) is { } account)
        {
            await FillAsync(account, db);
        }
    }

    private async Task FillAsync(AccountFacts account, WideKeelDb db)
    {
        if (account.HasLeft)
        {
            return;
        }

        units = account.Units;
        Root = units.Values.OrderBy(u => u.Value.Length).FirstOrDefault(new UnitPath("/"));
        Remits = account.Remits;
        (PersonId, Name, Mail) = (account.Id, account.Name, account.Mail);
        Selves = account.Selves;
        await RenewMattersAsync(db);
    }

    /// <summary>After an act that makes the caller a member: the same request goes on with it.</summary>
    public async Task RenewMattersAsync(WideKeelDb db) =>
        Matters = InScope(Right.OpenMatters)
            ? await MembershipOf.MattersAsync(db, PersonId, Mail)
            : new Dictionary<long, MemberPart>();

    /// <summary>Why the caller is no second person beside another, or null.</summary>
    /// <param name="own">What the caller did, and that somebody else must do the rest.</param>
    public string? NotSecondTo(long? other, string own) =>
        other == PersonId ? own
        : other is { } id && Selves.Contains(id)
            ? "One of you made or reset the other's account; a third person must do it."
        : null;

    /// <summary>May the caller use the right at all?</summary>
    public bool May(Right right) => InScope(right) && RightsPolicy.Allows(Remits, right, Root);

    /// <summary>May the caller use the right on something of this unit?</summary>
    public bool May(Right right, long unitId) =>
        InScope(right) && units.TryGetValue(unitId, out var unit) && RightsPolicy.Allows(Remits, right, Root, unit);

    /// <summary>May the caller use the right on something of the unit with this path?</summary>
    public bool Covers(Right right, UnitPath unit) => InScope(right) && RightsPolicy.Allows(Remits, right, Root, unit);

    /// <summary>May the caller use the right over the whole organisation?</summary>
    public bool WholeOrganisation(Right right) => Covers(right, Root);

    public UnitPath PathOf(long unitId) => units[unitId];

    /// <summary>
    /// May the caller know of a series of this unit? One's own part, and what lies above it, because that rules it too.
    /// </summary>
    public bool MaySee(Right right, long unitId) =>
        InScope(right)
        && units.TryGetValue(unitId, out var unit)
        && RightsPolicy.UnitsOf(Remits, right).Any(r => r.Covers(unit) || unit.Covers(r));

    /// <summary>
    /// Ids of the units on which the caller may use the right; null when that is the whole organisation.
    /// </summary>
    public IReadOnlyCollection<long>? Units(Right right)
    {
        if (!InScope(right))
        {
            return [];
        }

        var reach = RightsPolicy.UnitsOf(Remits, right);
        return reach.Contains(Root)
            ? null
            : [.. units.Where(u => reach.Any(r => r.Covers(u.Value))).Select(u => u.Key)];
    }

    /// <summary>The items on which the caller may use all of these rights.</summary>
    public ItemFilter Items(Right right = Right.ReadContent, Right? andAlso = null)
    {
        var units = Units(right);
        return new(
            andAlso is not { } also || Units(also) is not { } others
                ? units
                : units?.Intersect(others).ToList() ?? others
        )
        {
            GoneUnits = Units(Right.ReadGone),
        };
    }

    /// <summary>The caller as one who would sign.</summary>
    public Core.Disposition.Signer Signer => new(PersonId, Mail, [.. Remits]) { Selves = Selves };

    /// <summary>
    /// Null when the right covers the unit; otherwise the refusal, the same as for something that does not exist.
    /// </summary>
    public Refusal? Check(Right right, long unitId, string what) => May(right, unitId) ? null : Problems.NotFound(what);

    private bool InScope(Right right) => scopes is null || scopes.Contains(right);
}

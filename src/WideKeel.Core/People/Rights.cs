namespace WideKeel.Core.People;

/// <summary>What a person comes for. A role is held over a part of the unit tree: see <see cref="Remit"/>.</summary>
public enum Role
{
    RecordsManager,
    Steward,
    Staff,
    Administrator,

    /// <summary>Works in matters of which one is a member.</summary>
    Legal,

    /// <summary>May besides join a matter that one is not a member of; joining is an entry of the ledger.</summary>
    LegalLead,

    /// <summary>Reads and asks the logs of all systems.</summary>
    SecurityAnalyst,

    /// <summary>Answers for who reaches what, and for the organisation's readiness for audits.</summary>
    AuditManager,

    /// <summary>From outside: sees the rooms of the audits that they are invited to, and nothing else.</summary>
    ExternalAuditor,
}

/// <summary>One thing that can be allowed or not. Endpoints name one; nothing else decides.</summary>
public enum Right
{
    ReadContent,

    /// <summary>
    /// To see content that is gone from its source and kept in safekeeping. Whoever deleted it believes it to be gone.
    /// </summary>
    ReadGone,
    FileContent,
    ReadSchedule,
    WriteSchedule,
    ReadDocket,
    SignDisposition,
    ReadLedger,
    VerifyLedger,
    ScanSources,
    ReadSources,
    ManageSources,
    ManagePeople,
    ReadJobs,

    /// <summary>To know which sensitive kinds lie where. What they hide stays masked.</summary>
    ReadSensitive,

    /// <summary>To see what is masked; each time is an entry of the ledger.</summary>
    UnmaskSensitive,
    WriteKinds,

    /// <summary>To tell and revoke trigger events; they start clocks wherever their subject lies.</summary>
    WriteTriggerEvents,

    /// <summary>To change the organisation's calendar and to enable WORM.</summary>
    ManageSettings,

    /// <summary>To change, add and delete files of the workspace, as far as their grade lets.</summary>
    WorkContent,

    /// <summary>To open matters. What a matter holds is for its members only, whatever their rights.</summary>
    OpenMatters,

    /// <summary>To be told which matters exist beyond one's own, by number and unit, and to join one.</summary>
    JoinMatters,

    /// <summary>To read the directory of people and groups.</summary>
    ReadDirectory,

    /// <summary>To read activity: of each channel, if it is open to analysts or one is among its readers.</summary>
    ReadActivity,

    /// <summary>To connect channels and say what they admit, how long they keep it, and who reads them.</summary>
    ManageChannels,

    /// <summary>To switch watches on and off, and to answer alerts, with acts in the directory.</summary>
    ManageWatches,

    /// <summary>To ask who reaches what, and by which path.</summary>
    ReadAccess,

    /// <summary>To change access in the directory, to import it, and to run reviews.</summary>
    ManageAccess,

    /// <summary>To read controls, evidence, audits and how ready the organisation is.</summary>
    ReadReadiness,

    /// <summary>To change controls, give evidence and run audits.</summary>
    ManageReadiness,

    /// <summary>To visit the rooms of audits that one is invited to.</summary>
    VisitAudits,
}

/// <summary>A role over a unit and everything beneath it.</summary>
public readonly record struct Remit(Role Role, UnitPath Unit);

/// <summary>
/// The place of a unit in the tree, as the ids from the root down: <c>/1/4/9/</c>. Ends in a slash, so that "beneath"
/// is a prefix.
/// </summary>
public readonly record struct UnitPath
{
    public UnitPath(string value)
    {
        if (value is not ['/', .., '/'] and not "/")
        {
            throw new ArgumentException(
                $"A unit's path begins and ends with a slash; “{value}” does not.",
                nameof(value)
            );
        }

        Value = value;
    }

    public string Value { get; }

    /// <summary>True when <paramref name="other"/> is this unit or lies beneath it.</summary>
    public bool Covers(UnitPath other) => other.Value.StartsWith(Value, StringComparison.Ordinal);

    public UnitPath Child(long id) => new($"{Value}{id}/");

    public override string ToString() => Value;
}

/// <summary>The one place that decides by role × remit.</summary>
public static class RightsPolicy
{
    /// <param name="Words">As sentences name it.</param>
    private sealed record RoleDefinition(string Words, HashSet<Right> Rights);

    private static readonly Dictionary<Role, RoleDefinition> Roles = new()
    {
        [Role.RecordsManager] = new(
            "records manager",
            [
                Right.ReadContent,
                Right.ReadGone,
                Right.FileContent,
                Right.ReadSchedule,
                Right.WriteSchedule,
                Right.ReadDocket,
                Right.SignDisposition,
                Right.ReadLedger,
                Right.VerifyLedger,
                Right.ScanSources,
                Right.ReadSources,
                Right.ReadJobs,
                Right.ReadSensitive,
                Right.UnmaskSensitive,
                Right.WriteKinds,
                Right.WriteTriggerEvents,
                Right.ManageSettings,
                Right.WorkContent,
                Right.ReadDirectory,
            ]
        ),
        [Role.Steward] = new(
            "steward",
            [
                Right.ReadContent,
                Right.ReadGone,
                Right.FileContent,
                Right.ReadSchedule,
                Right.WriteSchedule,
                Right.ReadDocket,
                Right.SignDisposition,
                Right.ReadLedger,
                Right.ReadJobs,
                Right.ReadSensitive,
                Right.WorkContent,
            ]
        ),
        [Role.Staff] = new(
            "member of staff",
            [Right.ReadContent, Right.FileContent, Right.ReadSchedule, Right.WorkContent]
        ),
        [Role.Legal] = new(
            "legal counsel",
            [
                Right.ReadContent,
                Right.ReadGone,
                Right.ReadSchedule,
                Right.ReadJobs,
                Right.OpenMatters,
                Right.ReadDirectory,
            ]
        ),
        [Role.LegalLead] = new(
            "legal lead",
            [
                Right.ReadContent,
                Right.ReadGone,
                Right.ReadSchedule,
                Right.ReadJobs,
                Right.OpenMatters,
                Right.JoinMatters,
                Right.ReadDirectory,
            ]
        ),
        [Role.SecurityAnalyst] = new(
            "security analyst",
            [
                Right.ReadActivity,
                Right.ManageWatches,
                Right.ReadAccess,
                Right.ReadJobs,
                Right.ReadDirectory,
                Right.ReadLedger,
            ]
        ),
        [Role.AuditManager] = new(
            "audit manager",
            [
                Right.ReadAccess,
                Right.ManageAccess,
                Right.ReadReadiness,
                Right.ManageReadiness,
                Right.ReadActivity,
                Right.ReadSchedule,
                Right.ReadDirectory,
                Right.ReadLedger,
                Right.VerifyLedger,
                Right.ReadJobs,
            ]
        ),
        [Role.ExternalAuditor] = new("external auditor", [Right.VisitAudits]),
        [Role.Administrator] = new(
            "administrator",
            [
                Right.ManageChannels,
                Right.ReadLedger,
                Right.VerifyLedger,
                Right.ScanSources,
                Right.ReadSources,
                Right.ManageSources,
                Right.ManagePeople,
                Right.ReadJobs,
                Right.ManageSettings,
                Right.ReadDirectory,
            ]
        ),
    };

    /// <summary>
    /// Rights over something that has no part: the whole ledger, the people, a source that feeds several units. Only a
    /// remit over the root gives them.
    /// </summary>
    private static readonly HashSet<Right> WholeOrganisation =
    [
        Right.VerifyLedger,
        Right.ScanSources,
        Right.ReadSources,
        Right.ManageSources,
        Right.ManagePeople,
        Right.WriteKinds,
        Right.WriteTriggerEvents,
        Right.ManageSettings,
        Right.ManageChannels,
        Right.ManageWatches,
        Right.ReadAccess,
        Right.ManageAccess,
        Right.ReadReadiness,
        Right.ManageReadiness,
    ];

    public static bool Grant(Role role, Right right) =>
        Roles.TryGetValue(role, out var known) && known.Rights.Contains(right);

    /// <summary>A role as sentences name it.</summary>
    public static string WordsOf(Role role) => Roles[role].Words;

    /// <summary>
    /// The rights that a list of their words names. What this version does not know is passed over: it gives nothing.
    /// </summary>
    public static IReadOnlySet<Right> Read(string words) =>
        words
            .Split(',')
            .Select(w => Enum.TryParse<Right>(w, out var right) && Enum.IsDefined(right) ? right : (Right?)null)
            .OfType<Right>()
            .ToHashSet();

    /// <summary>May a person with these remits use the right at all, somewhere?</summary>
    public static bool Allows(IEnumerable<Remit> remits, Right right, UnitPath root) =>
        remits.Any(r => Grant(r.Role, right) && (!WholeOrganisation.Contains(right) || r.Unit == root));

    /// <summary>May a person with these remits use the right on something that belongs to this unit?</summary>
    public static bool Allows(IEnumerable<Remit> remits, Right right, UnitPath root, UnitPath unit) =>
        remits.Any(r =>
            Grant(r.Role, right) && r.Unit.Covers(unit) && (!WholeOrganisation.Contains(right) || r.Unit == root)
        );

    /// <summary>The units whose whole subtree the right covers.</summary>
    public static IReadOnlyList<UnitPath> UnitsOf(IEnumerable<Remit> remits, Right right) =>
        [.. remits.Where(r => Grant(r.Role, right)).Select(r => r.Unit).Distinct()];
}

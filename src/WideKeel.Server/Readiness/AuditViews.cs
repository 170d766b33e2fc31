using NodaTime;
using WideKeel.Server.Activity;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <param name="Framework">Its code.</param>
/// <param name="Auditor">Mail address of the auditor's account; empty where none is invited.</param>
public sealed record AuditSettings(
    string Name,
    string Framework,
    string Auditor,
    DateOnly PeriodFrom,
    DateOnly PeriodThrough,
    DateOnly StartsOn,
    DateOnly EndsOn
);

public sealed record RemarkView(Instant At, string By, string Text);

public sealed record RequestView(
    long Id,
    int Number,
    string What,
    string? Requirement,
    string Owner,
    LocalDate Due,
    RequestState State,
    IReadOnlyList<ProofDetailLine> Offered,
    IReadOnlyList<RemarkView> Remarks
);

/// <summary>A proof that is offered, as it was then.</summary>
/// <param name="Id">Of the proof.</param>
/// <param name="Hash">SHA-256 of the frozen copy with its facts.</param>
/// <param name="Outside">It speaks for a day outside the period of the audit.</param>
public sealed record ProofDetailLine(
    long Id,
    string Control,
    string Title,
    ProofView Proof,
    string Hash,
    Instant OfferedAt,
    string OfferedBy,
    bool Outside
);

/// <summary>A population that the organisation opened to the audit.</summary>
public sealed record PopulationView(long Id, string Title, int Size, string Hash, Instant OpenedAt, string OpenedBy);

/// <param name="Deviates">Null until it was examined.</param>
public sealed record PickView(string Name, bool? Deviates, string Note);

/// <param name="MaySet">The caller drew it, and sets its results.</param>
/// <param name="Picked">The subjects that were drawn, with their results.</param>
public sealed record SampleView(
    long Id,
    string Title,
    int Population,
    string Hash,
    int Seed,
    string Method,
    double Confidence,
    double Tolerable,
    double Expected,
    bool Finite,
    IReadOnlyList<PickView> Picked,
    IReadOnlyList<StratumView> Strata,
    int? Found,
    double? UpperLimit,
    string DrawnBy,
    bool MaySet
);

/// <param name="Drawn">Of its members.</param>
public sealed record StratumView(string Name, int Members, int Drawn);

/// <param name="Field">title, severity, control, response, action, owner, due, done, verified or returned.</param>
public sealed record FindingChangeView(Instant At, string By, string Field, string Before, string After);

/// <param name="MayWord">The caller found it, and may change title, severity and control.</param>
/// <param name="MayVerify">The caller may verify and close it, or return it.</param>
public sealed record FindingView(
    long Id,
    string Title,
    string Severity,
    string Control,
    string FoundBy,
    string Response,
    string Action,
    string Owner,
    LocalDate? Due,
    LocalDate? DoneOn,
    Instant? VerifiedAt,
    string VerifiedBy,
    bool MayWord,
    bool MayVerify,
    IReadOnlyList<AttachedInvestigation> Investigations,
    IReadOnlyList<FindingChangeView> Changes
);

/// <param name="Mine">The caller is this audit's auditor.</param>
public sealed record AuditView(
    long Id,
    AuditSettings Settings,
    string FrameworkTitle,
    Instant? ClosedAt,
    bool Mine,
    IReadOnlyList<RequestView> Requests,
    IReadOnlyList<SampleView> Samples,
    IReadOnlyList<FindingView> Findings,
    IReadOnlyList<PopulationView> Populations,
    long Revision
) : IRevised;

using Microsoft.EntityFrameworkCore;
using WideKeel.Store.Readiness;

namespace WideKeel.Store;

/// <content>The tables of gauges, controls, evidence and audits.</content>
public sealed partial class WideKeelDb
{
    public DbSet<GaugeRow> Gauges => Set<GaugeRow>();

    public DbSet<OwnMeasureRow> OwnMeasures => Set<OwnMeasureRow>();

    public DbSet<FrameworkRow> Frameworks => Set<FrameworkRow>();

    public DbSet<RequirementRow> Requirements => Set<RequirementRow>();

    public DbSet<ControlRow> Controls => Set<ControlRow>();

    public DbSet<ControlMapping> ControlMappings => Set<ControlMapping>();

    public DbSet<ControlPartRow> ControlParts => Set<ControlPartRow>();

    public DbSet<PartProof> PartProofs => Set<PartProof>();

    public DbSet<ReadinessDay> ReadinessDays => Set<ReadinessDay>();

    public DbSet<ReadinessGroundRow> ReadinessGrounds => Set<ReadinessGroundRow>();

    public DbSet<RegisterEntry> RegisterEntries => Set<RegisterEntry>();

    public DbSet<AuditRow> Audits => Set<AuditRow>();

    public DbSet<AuditRequest> AuditRequests => Set<AuditRequest>();

    public DbSet<AssuranceRow> Assurances => Set<AssuranceRow>();

    public DbSet<PolicyRow> Policies => Set<PolicyRow>();

    public DbSet<PolicyVersionRow> PolicyVersions => Set<PolicyVersionRow>();

    public DbSet<PolicyCopy> PolicyCopies => Set<PolicyCopy>();

    public DbSet<ConnectionRow> Connections => Set<ConnectionRow>();

    public DbSet<ConnectionRecord> ConnectionRecords => Set<ConnectionRecord>();

    public DbSet<RegisterDocument> RegisterDocuments => Set<RegisterDocument>();

    public DbSet<CrosswalkRow> Crosswalk => Set<CrosswalkRow>();

    public DbSet<AssuranceDocument> AssuranceDocuments => Set<AssuranceDocument>();

    public DbSet<DocumentAsk> DocumentAsks => Set<DocumentAsk>();

    public DbSet<AssuranceClient> AssuranceClients => Set<AssuranceClient>();
}

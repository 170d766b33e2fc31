namespace WideKeel.Core.People;

/// <summary>What is changed in a directory.</summary>
public enum DirectoryVerb
{
    Suspend,
    Restore,
    SignOut,
    AddMember,
    RemoveMember,
    AddGrant,
    RemoveGrant,
    AddLink,
    RemoveLink,
    AddConsent,
    RemoveConsent,
    SetOwner,
}

/// <summary>One change of a directory.</summary>
/// <param name="Who">A person or group; whom a link lets in; who consented.</param>
/// <param name="What">The group, resource or application; null for accounts.</param>
/// <param name="Role">Of a grant or link; the scopes of a consent, with spaces between.</param>
public sealed record DirectoryChange(DirectoryVerb Verb, string Who, string? What = null, string? Role = null)
{
    /// <summary>What takes it back; null where nothing can.</summary>
    public DirectoryChange? Undo() =>
        Verb switch
        {
            DirectoryVerb.Suspend => this with { Verb = DirectoryVerb.Restore },
            DirectoryVerb.Restore => this with { Verb = DirectoryVerb.Suspend },
            DirectoryVerb.AddMember => this with { Verb = DirectoryVerb.RemoveMember },
            DirectoryVerb.RemoveMember => this with { Verb = DirectoryVerb.AddMember },
            DirectoryVerb.AddGrant => this with { Verb = DirectoryVerb.RemoveGrant },
            DirectoryVerb.RemoveGrant => this with { Verb = DirectoryVerb.AddGrant },
            DirectoryVerb.AddLink => this with { Verb = DirectoryVerb.RemoveLink },
            DirectoryVerb.RemoveLink => this with { Verb = DirectoryVerb.AddLink },
            DirectoryVerb.AddConsent => this with { Verb = DirectoryVerb.RemoveConsent },
            DirectoryVerb.RemoveConsent => this with { Verb = DirectoryVerb.AddConsent },
            _ => null,
        };

    /// <summary>The grant that it gives or takes.</summary>
    public OutsideGrant Grant => new(Who, What ?? "", Role ?? "");

    /// <summary>Whether a state of the directory shows what this asks for.</summary>
    // Long because each kind of change is one arm.
    public bool IsShownBy(DirectoryState state) =>
        Verb switch
        {
            DirectoryVerb.Suspend => state.People.Any(p => p.Id == Who && p.Suspended),
            DirectoryVerb.Restore => state.People.Any(p => p.Id == Who && !p.Suspended),
            DirectoryVerb.SignOut => true,
            DirectoryVerb.AddMember => IsMember(state),
            DirectoryVerb.RemoveMember => !IsMember(state),
            DirectoryVerb.AddGrant => state.Grants.Contains(Grant),
            DirectoryVerb.RemoveGrant => !state.Grants.Contains(Grant),
            DirectoryVerb.AddLink => HasLink(state),
            DirectoryVerb.RemoveLink => !HasLink(state),
            DirectoryVerb.AddConsent => HasConsent(state),
            DirectoryVerb.RemoveConsent => !HasConsent(state),
            DirectoryVerb.SetOwner => state.Groups.Any(g => g.Id == What && g.Owner == Who)
                || state.Resources.Any(r => r.Id == What && r.Owner == Who),
            _ => throw new ArgumentOutOfRangeException(nameof(state)),
        };

    private bool IsMember(DirectoryState state) => state.Groups.Any(g => g.Id == What && g.Members.Contains(Who));

    private bool HasLink(DirectoryState state) =>
        state.Resources.Any(r => r.Id == What && r.Links.Any(l => l.To == Who && l.Role == Role));

    private bool HasConsent(DirectoryState state) =>
        state.Applications.Any(a => a.Id == What && a.Consents.Any(c => c.By == Who));

    /// <summary>What was done, as a sentence without its subject.</summary>
    public string InWords() =>
        Verb switch
        {
            DirectoryVerb.Suspend => $"suspended {Who}",
            DirectoryVerb.Restore => $"restored {Who}",
            DirectoryVerb.SignOut => $"signed {Who} out everywhere",
            DirectoryVerb.AddMember => $"added {Who} to {What}",
            DirectoryVerb.RemoveMember => $"removed {Who} from {What}",
            DirectoryVerb.AddGrant => $"gave {Who} {Role} on {What}",
            DirectoryVerb.RemoveGrant => $"took {Role} on {What} from {Who}",
            DirectoryVerb.AddLink => $"made a link to {What} for {Who}",
            DirectoryVerb.RemoveLink => $"removed the link to {What} for {Who}",
            DirectoryVerb.AddConsent => $"restored the consent of {Who} to {What}",
            DirectoryVerb.RemoveConsent => $"revoked the consent of {Who} to {What}",
            DirectoryVerb.SetOwner => $"made {Who} owner of {What}",
            _ => throw new ArgumentOutOfRangeException(nameof(Verb)),
        };
}

namespace WideKeel.Core.Activity;

/// <summary>The known actions: their categories, and how weighty each is by itself. Others are taken as they come.</summary>
public static class EventActions
{
    private static readonly Dictionary<string, (string Category, string Words)> Known = new()
    {
        ["sign-in"] = ("sign-in", "signed in"),
        ["sign-out"] = ("sign-in", "signed out"),
        ["mfa.register"] = ("sign-in", "registered a second factor"),
        ["mfa.disable"] = ("sign-in", "switched a second factor off"),
        ["file.read"] = ("content", "opened"),
        ["file.write"] = ("content", "wrote"),
        ["file.download"] = ("content", "downloaded"),
        ["file.delete"] = ("content", "deleted"),
        ["file.move"] = ("content", "moved"),
        ["share.add"] = ("sharing", "shared"),
        ["share.link"] = ("sharing", "made a link to"),
        ["share.remove"] = ("sharing", "stopped sharing"),
        ["invite.add"] = ("sharing", "invited"),
        ["permission.add"] = ("permission", "gave access to"),
        ["permission.remove"] = ("permission", "took access from"),
        ["group.member-add"] = ("permission", "added a member to"),
        ["group.member-remove"] = ("permission", "removed a member from"),
        ["role.add"] = ("admin", "gave a role"),
        ["role.remove"] = ("admin", "took a role"),
        ["account.create"] = ("admin", "made an account"),
        ["account.disable"] = ("admin", "disabled an account"),
        ["mail.send"] = ("mail", "sent mail"),
        ["mail.read"] = ("mail", "read mail"),
        ["mail.forward-set"] = ("mail", "set forwarding of mail"),
        ["app.consent"] = ("permission", "consented to an application"),
        ["config.change"] = ("configuration", "changed a setting"),
        ["device.lease"] = ("configuration", "leased an address"),
        ["log.stop"] = ("logging", "stopped logging"),
        ["log.start"] = ("logging", "started logging"),
    };

    /// <summary>All known actions.</summary>
    public static IReadOnlyCollection<string> All => Known.Keys;

    /// <summary>The category of an action; null where it is not a known one.</summary>
    public static string? CategoryOf(string? action) =>
        action is not null && Known.TryGetValue(action, out var known) ? known.Category : null;

    /// <summary>How weighty an action is before the organisation says otherwise.</summary>
    public static AlertSeverity SeverityOf(string? action) =>
        action switch
        {
            "role.add"
            or "mfa.disable"
            or "mail.forward-set"
            or "app.consent"
            or "log.stop"
            or "file.delete"
            or "share.link" => AlertSeverity.High,
            "file.download"
            or "share.add"
            or "invite.add"
            or "permission.add"
            or "group.member-add"
            or "account.create"
            or "config.change" => AlertSeverity.Medium,
            _ => AlertSeverity.Low,
        };

    /// <summary>What somebody did, as a sentence says it; the action itself where it is not a known one.</summary>
    public static string WordsOf(string action) => Known.TryGetValue(action, out var known) ? known.Words : action;
}

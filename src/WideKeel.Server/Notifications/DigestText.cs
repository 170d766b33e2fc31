namespace WideKeel.Server.Notifications;

/// <summary>What the morning's digest says.</summary>
internal static class DigestText
{
    public static MessageText Of(IReadOnlyList<(string Subject, string Body, string Link)> parts) =>
        new(
            "digest",
            $"{Wording.Plural(parts.Count, "message")} this morning",
            string.Join("\n\n", parts.Select(p => $"* {p.Subject}\n  {p.Body}\n  {p.Link}")),
            "these could wait until the morning"
        );
}

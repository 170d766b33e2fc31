namespace WideKeel.Server.Notifications;

/// <summary>What a message says.</summary>
/// <param name="Kind">Which event it tells of.</param>
/// <param name="Because">Why this person is told, as what follows "because".</param>
/// <param name="Reminds">It reminds of something told before, so it waits for the morning.</param>
public sealed record MessageText(string Kind, string Subject, string Body, string Because, bool Reminds = false);

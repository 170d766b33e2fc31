namespace WideKeel.Server.Tests;

/// <summary>A clock on the wall that a test moves.</summary>
public sealed class Wall : TimeProvider
{
    private DateTimeOffset now = DateTimeOffset.UtcNow;

    public void Advance(TimeSpan by) => now += by;

    public override DateTimeOffset GetUtcNow() => now;
}

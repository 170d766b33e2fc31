namespace WideKeel.Core.Content;

/// <summary>How an item came under its series.</summary>
public enum FiledHow
{
    Hand,

    /// <summary>By the default of its container or folder.</summary>
    Default,

    /// <summary>By a filing rule.</summary>
    Rule,
}

namespace WideKeel.Core.People;

/// <summary>What kind of account somebody has.</summary>
public enum AccountKind
{
    Person,
    Guest,
    Service,
}

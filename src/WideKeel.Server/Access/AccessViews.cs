using WideKeel.Core.People;
using WideKeel.Server.Activity;

namespace WideKeel.Server.Access;

/// <summary>The directory outside and who has what by it, for statements.</summary>
internal sealed class AccessViews(AccessGround access) : ISqlViewSource
{
    private static bool May(Caller caller) => caller.May(Right.ReadAccess);

    public IReadOnlyList<(SqlView View, Func<Caller, bool> May)> Views { get; } =
    [
        (
            new(
                "accounts",
                "Accounts of the directory.",
                StatementViews.Columns(
                    "id VARCHAR, name VARCHAR, kind VARCHAR, unit VARCHAR, title VARCHAR, manager VARCHAR, sponsor "
                        + "VARCHAR, left_on VARCHAR, suspended BOOLEAN, second_factor BOOLEAN"
                )
            ),
            May
        ),
        (
            new(
                "access_grants",
                "What is granted directly, to a person or a group.",
                StatementViews.Columns("granted_to VARCHAR, resource VARCHAR, role VARCHAR")
            ),
            May
        ),
        (
            new(
                "effective_access",
                "Who has which role on what in the end, over every group and folder.",
                StatementViews.Columns("account VARCHAR, resource VARCHAR, role VARCHAR")
            ),
            May
        ),
    ];

    public IAsyncEnumerable<object?[]> RowsAsync(string view, StatementGround ground) => Rows(view).ToAsyncEnumerable();

    private IEnumerable<object?[]> Rows(string view) =>
        view switch
        {
            "accounts" => access.State.People.Select(p =>
                new object?[]
                {
                    p.Id,
                    p.Name,
                    p.Kind,
                    p.Unit,
                    p.Title,
                    p.Manager,
                    p.Sponsor,
                    p.Left,
                    p.Suspended,
                    p.SecondFactor,
                }
            ),
            "access_grants" => access.State.Grants.Select(g => new object?[] { g.To, g.Resource, g.Role }),
            _ => access
                .Access.All()
                .SelectMany(r => r.Roles.Select(role => new object?[] { r.Person, r.Resource, role })),
        };
}

using System.Globalization;
using Microsoft.Data.Sqlite;
using NodaTime;
using WideKeel.Core.Access;
using WideKeel.Core.People;

/// <summary>
/// Access at scale: a tenth as many people as items, a fiftieth as many groups nested eight deep, as many grants. What one
/// person reaches beside a bare breadth-first search over arrays, who reaches one place beside a recursive SQL query.
/// </summary>
internal static class AccessRun
{
    private const int Deep = 8;
    private const int Asked = 50;
    private static readonly LocalDate Today = new(2026, 6, 15);

    public static async Task RunAsync(string folder, int grants)
    {
        var model = Model(grants);
        EffectiveAccess? access = null;
        var bare = new Bare(model);
        await Pair.CompareAsync(
            $"access computed over {model.People.Count:N0} people, {model.Groups.Count:N0} groups, {grants:N0} grants",
            "none",
            () =>
            {
                access = new(model, Today);
                return Task.CompletedTask;
            },
            () =>
            {
                bare = new(model);
                return Task.CompletedTask;
            },
            rounds: 3
        );
        var people = Enumerable.Range(0, Asked).Select(i => model.People[i * 997 % model.People.Count]).ToList();
        await Pair.CompareAsync(
            $"what {Asked} people reach, beside a search over arrays",
            "one at most 50 ms",
            () => Task.FromResult(people.Sum(p => access!.OfPerson(p).Count)),
            () => Task.FromResult(people.Sum(p => bare.Reach(p.Id)))
        );
        var places = Enumerable
            .Range(0, Asked)
            .Select(i => model.Resources[i * 991 % model.Resources.Count].Id)
            .ToList();
        using var database = Rows(Path.Combine(folder, "access.db"), model);
        await Pair.CompareAsync(
            $"who reaches {Asked} places, beside a recursive SQL query",
            "one at most 50 ms",
            () => Task.FromResult(places.Sum(p => access!.Audience(p).Count)),
            () => Task.FromResult(places.Sum(p => Audience(database, p)))
        );
        var change = new DirectoryChange(DirectoryVerb.AddMember, model.People[7].Id, model.Groups[3].Id);
        await Pair.CompareAsync(
            "what one membership gives, beside computing all anew",
            "without computing all",
            () => Task.FromResult(AccessChange.Differences(access!, change).Count),
            () => Task.FromResult(new EffectiveAccess(model, Today).PeopleIn(model.Groups[3].Id).Count),
            rounds: 3
        );
        var facts = Facts(model);
        await Pair.CompareAsync(
            "all lists to mend, beside one pass over the grants",
            "at most 10 s",
            () => Task.FromResult(Mending.Lists(facts, access!).Sum(l => l.Lines.Count)),
            () => Task.FromResult(model.Grants.Count(g => g.Role == "owner")),
            rounds: 1
        );
    }

    /// <summary>Groups in chains of eight, ten people in each; places in trees of four; a grant to a group of ten.</summary>
    private static AccessModel Model(int grants)
    {
        var random = new Random(11);
        var (people, groups, places) = (grants / 10, grants / 50, grants / 10);
        return new(
            [.. Enumerable.Range(0, people).Select(i => new DirectoryAccount(Person(i), AccountKind.Person, null))],
            [
                .. Enumerable
                    .Range(0, groups)
                    .Select(i => new DirectoryGroup(
                        Group(i),
                        [
                            .. Enumerable.Range(0, 10).Select(_ => Person(random.Next(people))),
                            // Each contains the one before it, eight of them in a chain.
                            .. i % Deep > 0 ? [Group(i - 1)] : Array.Empty<string>(),
                        ]
                    )),
            ],
            [
                .. Enumerable
                    .Range(0, places)
                    .Select(i => new Resource(Place(i), i % 4 == 0 ? null : Place(i - 1), i % 10 != 9, [])),
            ],
            [
                .. Enumerable
                    .Range(0, grants)
                    .Select(i => new Grant(
                        i % 10 == 0 ? Group(random.Next(groups)) : Person(random.Next(people)),
                        Place(random.Next(places)),
                        i % 3 == 0 ? "editor" : "reader"
                    )),
            ]
        );
    }

    private static string Person(int i) => string.Create(CultureInfo.InvariantCulture, $"p{i}@bench.example");

    private static string Group(int i) => string.Create(CultureInfo.InvariantCulture, $"group {i}");

    private static string Place(int i) => string.Create(CultureInfo.InvariantCulture, $"place/{i}");

    private static MendingFacts Facts(AccessModel model) =>
        new(
            Today,
            model,
            model.People.ToDictionary(p => p.Id, p => new PersonFacts(p.Id, p.Id, p.Kind, "Bench", "", p.Left, null)),
            model.Resources.ToDictionary(
                r => r.Id,
                r => new ResourceFacts(r.Id, r.Id, "library", Person(0), false, r.Id.EndsWith('7'), null)
            ),
            model.Groups.ToDictionary(g => g.Id, _ => (string?)Person(0)),
            [],
            [],
            new Dictionary<string, string>(),
            new Dictionary<(string, string), LocalDate>(),
            Today.PlusDays(-100)
        )
        {
            CollectedSince = model.Resources.ToDictionary(r => r.Id, _ => Today.PlusDays(-100)),
        };

    private static SqliteConnection Rows(string file, AccessModel model)
    {
        var connection = new SqliteConnection($"Data Source={file};Pooling=False");
        connection.Open();
        using var transaction = connection.BeginTransaction();
        Run("CREATE TABLE member (Grp TEXT, Member TEXT); CREATE TABLE grant_ (Who TEXT, Place TEXT);");
        Run("CREATE TABLE place (Id TEXT PRIMARY KEY, Parent TEXT, Inherits INTEGER)");
        Insert("INSERT INTO member VALUES ($a, $b)", model.Groups.SelectMany(g => g.Members.Select(m => (g.Id, m, 0))));
        Insert("INSERT INTO grant_ VALUES ($a, $b)", model.Grants.Select(g => (g.To, g.Resource, 0)));
        Insert(
            "INSERT INTO place VALUES ($a, NULLIF($b, ''), $c)",
            model.Resources.Select(r => (r.Id, r.Parent ?? "", r.Inherits ? 1 : 0))
        );
        Run("CREATE INDEX member_grp ON member (Grp); CREATE INDEX grant_place ON grant_ (Place)");
        transaction.Commit();
        return connection;

        void Run(string sql)
        {
            using var command = connection.CreateCommand();
            command.CommandText = sql;
            command.ExecuteNonQuery();
        }

        void Insert(string sql, IEnumerable<(string A, string B, int C)> rows)
        {
            using var command = connection.CreateCommand();
            command.CommandText = sql;
            var (a, b, c) = (
                command.Parameters.Add("$a", SqliteType.Text),
                command.Parameters.Add("$b", SqliteType.Text),
                command.Parameters.Add("$c", SqliteType.Integer)
            );
            foreach (var row in rows)
            {
                (a.Value, b.Value, c.Value) = (row.A, row.B, row.C);
                command.ExecuteNonQuery();
            }
        }
    }

    private static int Audience(SqliteConnection database, string place)
    {
        using var command = database.CreateCommand();
        command.CommandText = """
            WITH RECURSIVE
                above(Id, Inherits) AS (
                    SELECT Id, Inherits FROM place WHERE Id = $place
                    UNION SELECT p.Id, p.Inherits FROM above a JOIN place c ON c.Id = a.Id JOIN place p ON p.Id = c.Parent
                    WHERE a.Inherits = 1),
                who(Id) AS (
                    SELECT Who FROM grant_ WHERE Place IN (SELECT Id FROM above)
                    UNION SELECT m.Member FROM who JOIN member m ON m.Grp = who.Id)
            SELECT COUNT(*) FROM who WHERE Id LIKE 'p%'
            """;
        command.Parameters.AddWithValue("$place", place);
        return Convert.ToInt32(command.ExecuteScalar(), CultureInfo.InvariantCulture);
    }

    /// <summary>The same graph as arrays of numbers: what a search costs with nothing around it, and no ways kept.</summary>
    private sealed class Bare
    {
        private readonly Dictionary<string, int> numbers = [];
        private readonly List<int>[] groupsOf;
        private readonly List<int>[] granted;
        private readonly List<int>[] heirs;

        public Bare(AccessModel model)
        {
            foreach (var id in model.People.Select(p => p.Id).Concat(model.Groups.Select(g => g.Id)))
            {
                numbers[id] = numbers.Count;
            }

            var places = model.Resources.Select((r, i) => (r.Id, i)).ToDictionary(r => r.Id, r => r.i);
            groupsOf = Lists(numbers.Count);
            granted = Lists(numbers.Count);
            heirs = Lists(places.Count);
            foreach (var group in model.Groups)
            {
                foreach (var member in group.Members)
                {
                    groupsOf[numbers[member]].Add(numbers[group.Id]);
                }
            }

            foreach (var grant in model.Grants)
            {
                granted[numbers[grant.To]].Add(places[grant.Resource]);
            }

            foreach (var place in model.Resources.Where(r => r is { Inherits: true, Parent: not null }))
            {
                heirs[places[place.Parent!]].Add(places[place.Id]);
            }
        }

        private static List<int>[] Lists(int count) => [.. Enumerable.Range(0, count).Select(_ => new List<int>(2))];

        public int Reach(string person)
        {
            HashSet<int> seen = [numbers[person]],
                places = [];
            Queue<int> next = new(seen);
            while (next.TryDequeue(out var at))
            {
                foreach (var place in granted[at])
                {
                    Spread(place, places);
                }

                foreach (var group in groupsOf[at])
                {
                    if (seen.Add(group))
                    {
                        next.Enqueue(group);
                    }
                }
            }

            return places.Count;
        }

        private void Spread(int place, HashSet<int> places)
        {
            if (places.Add(place))
            {
                foreach (var heir in heirs[place])
                {
                    Spread(heir, places);
                }
            }
        }
    }
}

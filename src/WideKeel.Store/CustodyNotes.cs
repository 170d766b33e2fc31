using System.Globalization;
using WideKeel.Core.Retention;

namespace WideKeel.Store;

/// <summary>What the standings written in one change take from the custody of items, and by whom.</summary>
public sealed class CustodyNotes
{
    private readonly Dictionary<string, long> acts = [];

    /// <summary>Those who agreed to the change or asked for it, beside the person who acts.</summary>
    public HashSet<long> Persons { get; } = [];

    /// <summary>What is taken from all items of the change.</summary>
    public CustodyLoss Loss { get; private set; }

    internal void Add(CustodyEffects effects, long bytes) => Loss = Loss.Plus(effects, bytes);

    /// <summary>The change was taken back within its transaction.</summary>
    public void Forget()
    {
        acts.Clear();
        Loss = default;
    }

    /// <summary>The row of this change for the items that it makes due.</summary>
    /// <param name="also">Somebody without whom these items would not be due: who set the default that files them.</param>
    /// <returns>Null where no person had a part in it: then the persons of the rule stand for it.</returns>
    internal long? ActOf(WriteSession session, long? also)
    {
        List<long> persons =
        [
            .. Persons.Concat(new[] { session.Actor.Person, also }.OfType<long>()).Distinct().Order(),
        ];
        if (persons.Count == 0)
        {
            return null;
        }

        var key = string.Join(' ', persons.Select(p => p.ToString(CultureInfo.InvariantCulture)));
        if (!acts.TryGetValue(key, out var id))
        {
            using var act = session.Command("INSERT INTO due_act (At, By) VALUES ($at, $by) RETURNING Id");
            act.Parameters.AddWithValue("$at", session.Now.ToUnixTimeMilliseconds());
            act.Parameters.AddWithValue("$by", session.Actor.Who);
            acts[key] = id = (long)act.ExecuteScalar()!;
            using var person = session.Command("INSERT INTO due_act_person (ActId, PersonId) VALUES ($act, $person)");
            person.Parameters.AddWithValue("$act", id);
            var value = person.Parameters.AddWithValue("$person", 0L);
            foreach (var one in persons)
            {
                value.Value = one;
                person.ExecuteNonQuery();
            }
        }

        return id;
    }
}

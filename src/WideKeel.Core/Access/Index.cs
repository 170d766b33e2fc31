namespace WideKeel.Core.Access;

/// <summary>Values by an id; a change is laid over what does not change.</summary>
internal sealed class Index<T>(Dictionary<string, T> below, Dictionary<string, T>? over = null)
    where T : class
{
    public T? Of(string id) =>
        over is not null && over.TryGetValue(id, out var changed) ? changed : below.GetValueOrDefault(id);

    public IEnumerable<T> All => over is null ? below.Values : below.Keys.Union(over.Keys).Select(k => Of(k)!);

    public Index<T> With(string id, T value)
    {
        Dictionary<string, T> changed = new(over ?? new Dictionary<string, T>(), StringComparer.Ordinal)
        {
            [id] = value,
        };
        return new(below, changed);
    }

    public static Index<IReadOnlyList<TOne>> Of<TOne>(IEnumerable<(string Id, TOne One)> all)
    {
        Dictionary<string, IReadOnlyList<TOne>> lists = new(StringComparer.Ordinal);
        foreach (var (id, one) in all)
        {
            if (!lists.TryGetValue(id, out var list))
            {
                lists[id] = list = new List<TOne>(1);
            }

            ((List<TOne>)list).Add(one);
        }

        return new(lists);
    }
}

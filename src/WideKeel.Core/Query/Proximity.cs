namespace WideKeel.Core.Query;

/// <summary>Places that lie so far apart.</summary>
internal static class Proximity
{
    /// <summary>
    /// Bound on the places that one <c>prox</c> hands to another around it; beyond it a text is all hits and the answer
    /// is no longer in doubt.
    /// </summary>
    private const int MostPlaces = 20_000;

    /// <summary>
    /// The number by which distance is counted, for each word: its own, that of its sentence, of its paragraph, or 0 in
    /// one element. A sentence ends at . ! or ? before white space, and with its paragraph; a paragraph ends at an
    /// empty line.
    /// </summary>
    public static int[] Scale(ProximityUnit unit, List<Word> words, string text)
    {
        var scale = new int[words.Count];
        var (number, at) = (0, 0);
        for (var i = 0; i < words.Count; i++)
        {
            switch (unit)
            {
                case ProximityUnit.Word:
                    scale[i] = i;
                    continue;
                case ProximityUnit.Element:
                    continue;
            }

            if (i > 0 && Ends(text.AsSpan(at, words[i].Start - at), unit))
            {
                number++;
            }

            at = words[i].Start + words[i].Length;
            scale[i] = number;
        }

        return scale;
    }

    /// <summary>The pairs, each as the place from its first to its last word.</summary>
    /// <param name="left">By first word.</param>
    /// <param name="right">By first word.</param>
    public static List<(int From, int To)> Pairs(
        Condition.Near near,
        List<(int From, int To)> left,
        List<(int From, int To)> right,
        int[] scale,
        bool atLeastOne
    )
    {
        var found = new SortedSet<(int, int)>();
        var byEnd = right.OrderBy(r => r.To).ToList();
        var longest = right.Count == 0 ? 0 : right.Max(r => r.To - r.From);
        foreach (var l in left)
        {
            foreach (var (from, to) in near.Distances)
            {
                var pairs = Following(l, from, to, right, scale);
                if (!near.Ordered)
                {
                    pairs = pairs.Concat(Preceding(l, from, to, byEnd, scale));
                    pairs = from == 0 ? pairs.Concat(Sharing(l, right, longest)) : pairs;
                }

                foreach (var pair in pairs)
                {
                    found.Add(pair);
                    if (atLeastOne || found.Count >= MostPlaces)
                    {
                        return [.. found];
                    }
                }
            }
        }

        return [.. found];
    }

    /// <summary>With what begins after a place ends, nearest first.</summary>
    private static IEnumerable<(int From, int To)> Following(
        (int From, int To) place,
        int least,
        int most,
        List<(int From, int To)> right,
        int[] scale
    )
    {
        for (var k = After(right, place.To); k < right.Count; k++)
        {
            var distance = scale[right[k].From] - scale[place.To];
            if (distance > most)
            {
                yield break;
            }

            if (distance < least)
            {
                k = Math.Max(k, FirstAtScale(right, k, least + (long)scale[place.To], scale) - 1);
            }
            else
            {
                yield return (place.From, right[k].To);
            }
        }
    }

    /// <summary>With what ends before a place begins, nearest first.</summary>
    private static IEnumerable<(int From, int To)> Preceding(
        (int From, int To) place,
        int least,
        int most,
        List<(int From, int To)> byEnd,
        int[] scale
    )
    {
        for (var k = LastBefore(byEnd, place.From); k >= 0; k--)
        {
            var distance = scale[place.From] - scale[byEnd[k].To];
            if (distance > most)
            {
                yield break;
            }

            if (distance >= least)
            {
                yield return (byEnd[k].From, place.To);
            }
        }
    }

    /// <summary>With what shares a word with a place, and so is no distance away.</summary>
    /// <param name="longest">Words from the first to the last of the longest place on the right.</param>
    private static IEnumerable<(int From, int To)> Sharing(
        (int From, int To) place,
        List<(int From, int To)> right,
        int longest
    )
    {
        for (var k = After(right, place.From - longest - 1); k < right.Count && right[k].From <= place.To; k++)
        {
            if (right[k].To >= place.From)
            {
                yield return (Math.Min(place.From, right[k].From), Math.Max(place.To, right[k].To));
            }
        }
    }

    /// <summary>The first place that begins after a word.</summary>
    private static int After(List<(int From, int To)> places, int word)
    {
        var (low, high) = (0, places.Count);
        while (low < high)
        {
            var middle = (low + high) / 2;
            (low, high) = places[middle].From > word ? (low, middle) : (middle + 1, high);
        }

        return low;
    }

    private static int FirstAtScale(List<(int From, int To)> places, int start, long at, int[] scale)
    {
        var (low, high) = (start, places.Count);
        while (low < high)
        {
            var middle = (low + high) / 2;
            (low, high) = scale[places[middle].From] >= at ? (low, middle) : (middle + 1, high);
        }

        return low;
    }

    /// <summary>The last place, by its end, that ends before a word; -1 when there is none.</summary>
    private static int LastBefore(List<(int From, int To)> byEnd, int word)
    {
        var (low, high) = (0, byEnd.Count);
        while (low < high)
        {
            var middle = (low + high) / 2;
            (low, high) = byEnd[middle].To >= word ? (low, middle) : (middle + 1, high);
        }

        return low - 1;
    }

    private static bool Ends(ReadOnlySpan<char> between, ProximityUnit unit)
    {
        var lines = 0;
        for (var i = 0; i < between.Length; i++)
        {
            if (between[i] == '\n' && ++lines == 2)
            {
                return true;
            }

            if (!char.IsWhiteSpace(between[i]))
            {
                lines = 0;
                if (
                    unit == ProximityUnit.Sentence
                    && between[i] is '.' or '!' or '?' or '。'
                    && i + 1 < between.Length
                    && char.IsWhiteSpace(between[i + 1])
                )
                {
                    return true;
                }
            }
        }

        return false;
    }
}

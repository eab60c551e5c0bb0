namespace ComeAboard.Core.Matching;

/// <summary>
/// Records put together by what two of one human usually share, so that not every two have to be looked at. There are several
/// keys, for each way in which one of them fails; what a common value would yield is cut down by a narrower key, so that there
/// are never more pairs than a constant for each record.
/// </summary>
internal sealed class Blocks
{
    /// <summary>One way of putting records together.</summary>
    /// <param name="Most">How many records of one value are compared with one another.</param>
    /// <param name="Keys">Gives the keys of a record.</param>
    /// <param name="IsName">Whether the key is the whole name: who shares it is not looked at again under the ways behind.</param>
    private sealed record Way(int Most, Action<Keys> Keys, bool IsName = false);

    /// <summary>The keys of a record under one way; with each a narrower one for where there are too many.</summary>
    private sealed class Keys(Pieces[] all, int[] more, Weigher weigher)
    {
        public readonly List<(ulong Wide, ulong Narrow, int Record)> Found = [];
        public int Record;
        public ref readonly Pieces Piece => ref all[Record];
        public int[] More => more;
        public Weigher Weigher => weigher;
        public int Sound => weigher.SoundOf(Piece.Family);

        public void Add(int one, int other, int narrower)
        {
            if (one < 0 || other < 0)
                return;
            var wide = Mix((uint)one, (uint)other);
            Found.Add((wide, Mix((uint)wide ^ (uint)(wide >> 32), (uint)narrower), Record));
        }
    }

    private static readonly Way[] Ways =
    [
        new(
            200,
            keys =>
            {
                ref readonly var piece = ref keys.Piece;
                keys.Add(piece.Address, 0, piece.Family);
                for (var i = piece.More; i < piece.More + piece.MoreCount; i++)
                    keys.Add(keys.More[i], 0, piece.Family);
            }
        ),
        new(100, keys => keys.Add(keys.Piece.Outside, keys.Piece.Source, keys.Piece.Family)),
        new(100, keys => keys.Add(keys.Piece.Phone, 0, keys.Piece.GivenLetter)),
        new(
            100,
            keys =>
            {
                ref readonly var piece = ref keys.Piece;
                keys.Add(
                    Math.Min(piece.Given, piece.Family),
                    Math.Max(piece.Given, piece.Family),
                    piece.Firm
                );
            },
            IsName: true
        ),
        new(
            40,
            keys =>
            {
                ref readonly var piece = ref keys.Piece;
                keys.Add(piece.Family, piece.GivenLetter, piece.Firm);
                keys.Add(piece.Second, piece.GivenLetter, piece.Firm);
            }
        ),
        new(40, keys => keys.Add(keys.Sound, keys.Piece.Firm, keys.Piece.GivenLetter)),
        new(30, keys => keys.Add(keys.Piece.Local, 0, keys.Piece.GivenLetter)),
        // Either name and where they belong: the other may be another, and they may be swapped.
        new(
            40,
            keys =>
            {
                ref readonly var piece = ref keys.Piece;
                AddForms(keys, piece.Given, piece.Firm, piece.GivenLetter);
                AddForms(keys, piece.Family, piece.Firm, piece.GivenLetter);
            }
        ),
        // Changed and double family names: each of a record's names with each form of the given one.
        new(
            40,
            keys =>
            {
                ref readonly var piece = ref keys.Piece;
                AddForms(keys, piece.Family, piece.Firm);
                if (piece.Second != piece.Family)
                    AddForms(keys, piece.Second, piece.Firm);
                if (!piece.IsLocalBuilt || piece.LocalOne != piece.Family)
                    AddForms(keys, piece.LocalOne, piece.Firm);
                if (!piece.IsLocalBuilt || piece.LocalTwo != piece.Family)
                    AddForms(keys, piece.LocalTwo, piece.Firm);
            }
        ),
        // A slip is in the first half of a name, or in the second.
        new(30, keys => AddForms(keys, Part(keys, isEnd: false), keys.Sound)),
        new(30, keys => AddForms(keys, Part(keys, isEnd: true), keys.Sound)),
    ];

    private static void AddForms(Keys keys, int with, int narrower) =>
        AddForms(keys, keys.Piece.Given, with, narrower);

    private static void AddForms(Keys keys, int name, int with, int narrower)
    {
        if (name < 0 || with < 0)
            return;
        var forms = keys.Weigher.FormsOf(name);
        if (forms.Length == 0)
            keys.Add(name, with, narrower);
        else
            foreach (var form in forms)
                keys.Add(int.MaxValue - form, with, narrower);
    }

    /// <summary>The first or last three letters of the family name as a number; -1 for a shorter name.</summary>
    private static int Part(Keys keys, bool isEnd)
    {
        var name = keys.Weigher.NameOf(keys.Piece.Family);
        if (name.Length < 5)
            return -1;
        var part = isEnd ? name.AsSpan(name.Length - 3) : name.AsSpan(0, 3);
        return (part[0] << 14 | part[1] << 7 | part[2]) + (isEnd ? 1 << 22 : 0);
    }

    private static bool HaveOneName(in Pieces one, in Pieces other) =>
        one.Given >= 0 && one.Given == other.Given && one.Family == other.Family;

    private static ulong Mix(uint one, uint other)
    {
        var mixed = ((ulong)one << 32 | other) * 0x9E3779B97F4A7C15;
        mixed ^= mixed >> 29;
        mixed *= 0xBF58476D1CE4E5B9;
        return mixed ^ mixed >> 32;
    }

    /// <summary>Calls for each two records that share a key, some of them more than once.</summary>
    /// <param name="all">The records.</param>
    /// <param name="more">Their further addresses.</param>
    /// <param name="weigher">What knows their names.</param>
    /// <param name="workers">How many ways are gone at once.</param>
    /// <param name="split">Records before it are only compared with those from there on; 0 for one list.</param>
    /// <param name="begin">Makes what is called, for each worker.</param>
    /// <param name="progress">Told the share that is done.</param>
    public static void Pairs(
        Pieces[] all,
        int[] more,
        Weigher weigher,
        int workers,
        int split,
        Func<Action<int, int>> begin,
        IProgress<double>? progress
    )
    {
        var (next, done) = (-1, 0);
        Parallel.For(
            0,
            workers,
            new ParallelOptions { MaxDegreeOfParallelism = workers },
            _ =>
            {
                var look = begin();
                while (Interlocked.Increment(ref next) is var way && way < Ways.Length)
                {
                    Go(way, new Keys(all, more, weigher), all, split, look);
                    progress?.Report((double)Interlocked.Increment(ref done) / Ways.Length);
                }
            }
        );
    }

    private static void Go(int number, Keys keys, Pieces[] all, int split, Action<int, int> look)
    {
        var way = Ways[number];
        var isBehindNames = number > Array.FindIndex(Ways, one => one.IsName);
        for (keys.Record = 0; keys.Record < all.Length; keys.Record++)
            way.Keys(keys);
        var found = keys.Found;
        var (by, at) = (new ulong[found.Count], new int[found.Count]);
        for (var i = 0; i < found.Count; i++)
            (by[i], at[i]) = (found[i].Wide, i);
        Array.Sort(by, at);
        for (var begin = 0; begin < by.Length; )
        {
            var end = begin + 1;
            while (end < by.Length && by[end] == by[begin])
                end++;
            if (end - begin <= way.Most)
                Compare(begin, end);
            else
                Narrow(begin, end);
            begin = end;
        }

        void Narrow(int begin, int end)
        {
            for (var i = begin; i < end; i++)
                by[i] = found[at[i]].Narrow;
            Array.Sort(by, at, begin, end - begin);
            for (var from = begin; from < end; )
            {
                var to = from + 1;
                while (to < end && by[to] == by[from])
                    to++;
                // What even a narrower key does not part tells too little to be looked at one by one.
                if (to - from <= 2 * way.Most)
                    Compare(from, to);
                from = to;
            }
        }

        void Compare(int begin, int end)
        {
            for (var i = begin; i < end; i++)
            {
                var one = found[at[i]].Record;
                for (var j = i + 1; j < end; j++)
                {
                    var other = found[at[j]].Record;
                    if (one == other || split > 0 && one < split == other < split)
                        continue;
                    if (isBehindNames && HaveOneName(all[one], all[other]))
                        continue;
                    look(Math.Min(one, other), Math.Max(one, other));
                }
            }
        }
    }
}

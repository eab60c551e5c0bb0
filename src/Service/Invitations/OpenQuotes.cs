namespace ComeAboard.Service.Invitations;

/// <summary>
/// Quotation marks that open a cell and are never closed would swallow the rows below. Each is made a sign of its cell, doubled
/// within quotes (RFC 4180), so that only its own row suffers, and says so.
/// </summary>
/// <param name="source">A table in UTF-8; it is disposed of with this one.</param>
/// <param name="separator">What stands between its cells.</param>
/// <param name="reach">Within how many bytes a quotation mark has to be closed.</param>
public sealed class OpenQuotes(Stream source, char separator, int reach = OpenQuotes.Farthest) : OneWayStream
{
    /// <summary>Within how many bytes a quotation mark has to be closed: a longer row is not taken anyway.</summary>
    public const int Farthest = Tables.LongestRow;

    private const byte Quote = (byte)'"';

    private readonly byte[] _read = new byte[2 * reach];
    private readonly MemoryStream _mended = new();

    // What is read and not given out yet; of it, what is known to be fine as it is.
    private int _from;
    private int _to;
    private int _fine;
    private bool _ended;
    private byte _last = (byte)'\n';

    private ReadOnlySpan<byte> Window => _read.AsSpan(_from, _to - _from);

    /// <summary>What a cell is looked for in: as much with every size of reads.</summary>
    private ReadOnlySpan<byte> Reached => Window[..Math.Min(reach, Window.Length)];

    /// <inheritdoc/>
    public override int Read(Span<byte> buffer)
    {
        while (!buffer.IsEmpty)
        {
            if (_mended.Length > _mended.Position)
                return _mended.Read(buffer);
            if (_fine > 0)
                return GiveOut(buffer);
            // One more than is looked at says whether anything comes behind it.
            if (_to - _from <= reach)
                Fill();
            if (Window.IsEmpty)
                return 0;
            if (Window[0] != Quote || !EndsCell(_last))
                _fine = UntilOpening();
            else if (End() is { } end)
                _fine = end + 1;
            else
                Mend();
        }
        return 0;
    }

    /// <inheritdoc/>
    protected override void Dispose(bool disposing)
    {
        if (disposing)
        {
            source.Dispose();
            _mended.Dispose();
        }
        base.Dispose(disposing);
    }

    private bool EndsCell(byte sign) => sign == separator || sign is (byte)'\n' or (byte)'\r';

    private int GiveOut(Span<byte> buffer)
    {
        var fine = Window[..Math.Min(_fine, buffer.Length)];
        fine.CopyTo(buffer);
        _last = fine[^1];
        _from += fine.Length;
        _fine -= fine.Length;
        return fine.Length;
    }

    private void Fill()
    {
        Window.CopyTo(_read);
        (_from, _to) = (0, _to - _from);
        while (!_ended && _to < _read.Length)
        {
            var more = source.Read(_read.AsSpan(_to));
            _to += more;
            _ended = more == 0;
        }
    }

    /// <summary>How much stands before the next quotation mark that opens a cell.</summary>
    private int UntilOpening()
    {
        var window = Window;
        for (var at = 1; ; at++)
        {
            var next = window[at..].IndexOf(Quote);
            if (next < 0)
                return window.Length;
            at += next;
            if (EndsCell(window[at - 1]))
                return at;
        }
    }

    /// <summary>Where the quoted cell at hand is closed; null when it never is, or goes on behind the mark that should close it.</summary>
    private int? End()
    {
        var window = Reached;
        var isLast = _ended && window.Length == Window.Length;
        for (var i = 1; i < window.Length; i++)
        {
            if (window[i] != Quote)
                continue;
            if (i + 1 < window.Length && window[i + 1] == Quote)
            {
                i++;
                continue;
            }
            while (i + 1 < window.Length && window[i + 1] == ' ')
                i++;
            return i + 1 == window.Length ? (isLast ? i : null)
                : EndsCell(window[i + 1]) ? i
                : null;
        }
        return null;
    }

    private void Mend()
    {
        var window = Reached;
        var end = 0;
        while (end < window.Length && !EndsCell(window[end]))
            end++;
        _mended.SetLength(0);
        _mended.WriteByte(Quote);
        foreach (var sign in window[..end])
        {
            if (sign == Quote)
                _mended.WriteByte(Quote);
            _mended.WriteByte(sign);
        }
        _mended.WriteByte(Quote);
        _mended.Position = 0;
        _last = Quote;
        _from += end;
    }
}

namespace ComeAboard.Service.Invitations;

/// <summary>
/// Quotation marks that open a cell and are never closed would swallow the rows below. Each is made a sign of its cell, so
/// that only its own row suffers, and says so.
/// </summary>
internal static class OpenQuotes
{
    private const byte Quote = (byte)'"';

    /// <summary>The same table with every open quotation mark doubled within quotes (RFC 4180), as a sign like any other.</summary>
    /// <param name="csv">A table in UTF-8.</param>
    /// <param name="separator">What stands between its cells.</param>
    public static byte[] Mend(byte[] csv, char separator)
    {
        // Mostly there is nothing to mend, and then nothing is copied.
        MemoryStream? mended = null;
        var copied = 0;
        var begins = true;
        for (var i = 0; i < csv.Length; i++)
        {
            if (begins && csv[i] == Quote)
            {
                if (End(csv, i, separator) is { } end)
                {
                    i = end;
                    begins = false;
                    continue;
                }
                var cell = i;
                while (i < csv.Length && csv[i] != separator && csv[i] is not ((byte)'\n' or (byte)'\r'))
                    i++;
                mended ??= new MemoryStream(csv.Length + 64);
                mended.Write(csv, copied, cell - copied);
                mended.WriteByte(Quote);
                foreach (var sign in csv.AsSpan(cell, i - cell))
                {
                    if (sign == Quote)
                        mended.WriteByte(Quote);
                    mended.WriteByte(sign);
                }
                mended.WriteByte(Quote);
                copied = i;
                if (i == csv.Length)
                    break;
            }
            begins = csv[i] == separator || csv[i] is (byte)'\n' or (byte)'\r';
        }
        if (mended is null)
            return csv;
        mended.Write(csv, copied, csv.Length - copied);
        return mended.ToArray();
    }

    /// <summary>Where a quoted cell is closed; null when it never is, or goes on behind the mark that should close it.</summary>
    private static int? End(byte[] csv, int open, char separator)
    {
        for (var i = open + 1; i < csv.Length; i++)
        {
            if (csv[i] != Quote)
                continue;
            if (i + 1 < csv.Length && csv[i + 1] == Quote)
            {
                i++;
                continue;
            }
            while (i + 1 < csv.Length && csv[i + 1] == ' ')
                i++;
            return i + 1 == csv.Length || csv[i + 1] == separator || csv[i + 1] is (byte)'\n' or (byte)'\r'
                ? i
                : null;
        }
        return null;
    }
}

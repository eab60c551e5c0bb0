using System.Text;
using ComeAboard.Service.Invitations;
using CsCheck;
using Xunit;

namespace ComeAboard.Service.Tests;

/// <summary>Open quotation marks are mended alike however a table comes in, as against a plain way that has it whole.</summary>
public sealed class OpenQuotesInParts
{
    [Fact]
    public void However_few_bytes_come_and_are_asked_for_at_once_the_same_table_comes_out()
    {
        // Mostly what decides something: marks, ends of cells and rows, blanks behind a mark.
        var tables = Gen.Int[0, 6].Select(n => "\"\",\n\r a"[n]).Array[0, 60];
        Gen.Select(tables, Gen.Int[1, 20], Gen.Int[1, 9], Gen.Int[1, 9])
            .Sample(
                (signs, reach, coming, asked) =>
                {
                    var table = new string(signs);
                    using var mended = new OpenQuotes(
                        new Trickle(Encoding.UTF8.GetBytes(table), coming),
                        ',',
                        reach
                    );
                    Assert.Equal(Plainly(table, reach), ReadAll(mended, asked));
                },
                iter: 20_000
            );
    }

    [Fact]
    public void What_is_quoted_as_it_should_be_stays_as_it_is()
    {
        const string Table =
            "Address,Name\r\n\"ines@x.example\",\"Ines \"\"the bell\"\", of\r\nthe quay\" \r\n";
        using var mended = new OpenQuotes(new Trickle(Encoding.UTF8.GetBytes(Table), 3), ',');
        Assert.Equal(Table, ReadAll(mended, 5));
    }

    [Fact]
    public void A_mark_that_is_closed_too_far_away_suffers_alone()
    {
        var far = new string('a', OpenQuotes.Farthest);
        using var mended = new OpenQuotes(
            new Trickle(Encoding.UTF8.GetBytes($"\"open,x\n{far}\n{far},\"\nlast,row"), 10_000),
            ','
        );
        Assert.Equal($"\"\"\"open\",x\n{far}\n{far},\"\"\"\"\nlast,row", ReadAll(mended, 4_096));
    }

    private static string ReadAll(Stream stream, int asked)
    {
        using var all = new MemoryStream();
        var some = new byte[asked];
        for (int read; (read = stream.Read(some)) > 0; )
            all.Write(some, 0, read);
        return Encoding.UTF8.GetString(all.ToArray());
    }

    /// <summary>The same with the whole table at hand, sign by sign.</summary>
    private static string Plainly(string table, int reach)
    {
        var mended = new StringBuilder();
        for (var at = 0; at < table.Length; )
        {
            if (table[at] != '"' || at > 0 && !EndsCell(table[at - 1]))
                mended.Append(table[at++]);
            else if (EndOf(at) is { } end)
            {
                mended.Append(table, at, end + 1 - at);
                at = end + 1;
            }
            else
            {
                var cell = new string([.. table[at..].Take(reach).TakeWhile(sign => !EndsCell(sign))]);
                mended.Append('"').Append(cell.Replace("\"", "\"\"", StringComparison.Ordinal)).Append('"');
                at += cell.Length;
            }
        }
        return mended.ToString();

        static bool EndsCell(char sign) => sign is ',' or '\n' or '\r';

        int? EndOf(int open)
        {
            var reached = table[open..Math.Min(table.Length, open + reach)];
            for (var i = 1; i < reached.Length; i++)
            {
                if (reached[i] != '"')
                    continue;
                if (i + 1 < reached.Length && reached[i + 1] == '"')
                    i++;
                else
                {
                    var behind = i + 1;
                    while (behind < reached.Length && reached[behind] == ' ')
                        behind++;
                    var closes =
                        behind < reached.Length
                            ? EndsCell(reached[behind])
                            : open + reached.Length == table.Length;
                    return closes ? open + behind - 1 : null;
                }
            }
            return null;
        }
    }

    /// <summary>Gives few bytes at a time, as a network may.</summary>
    private sealed class Trickle(byte[] content, int most) : OneWayStream
    {
        private int _at;

        public override int Read(Span<byte> buffer)
        {
            var given = content.AsSpan(_at, Math.Min(Math.Min(most, buffer.Length), content.Length - _at));
            given.CopyTo(buffer);
            _at += given.Length;
            return given.Length;
        }
    }
}

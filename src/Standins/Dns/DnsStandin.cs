using System.Buffers.Binary;
using System.Collections.Concurrent;
using System.Net;
using System.Net.Sockets;
using System.Text;

namespace ComeAboard.Standins.Dns;

/// <summary>A stand-in name server on loopback, over UDP: it knows TXT records (RFC 1035) that were put into it, and nothing else.</summary>
public sealed class DnsStandin : IAsyncDisposable
{
    private const int Text = 16;
    private const int Header = 12;

    private readonly UdpClient _socket = new(new IPEndPoint(IPAddress.Loopback, 0));
    private readonly CancellationTokenSource _stop = new();
    private readonly ConcurrentDictionary<string, string> _records = new(StringComparer.OrdinalIgnoreCase);
    private readonly Task _work;

    public DnsStandin() => _work = Task.Run(AnswerAsync);

    /// <summary>Where it answers.</summary>
    public IPEndPoint Address => (IPEndPoint)_socket.Client.LocalEndPoint!;

    /// <summary>The records there are, by name.</summary>
    public IReadOnlyList<KeyValuePair<string, string>> Records =>
        [.. _records.ToArray().OrderBy(record => record.Key, StringComparer.Ordinal)];

    /// <summary>Puts a record in, in place of the one of that name.</summary>
    /// <param name="name">Its name.</param>
    /// <param name="text">Its text, at most 255 characters of ASCII.</param>
    public void Put(string name, string text)
    {
        if (name.Length is 0 or > 253 || text.Length is 0 or > 255 || !Ascii.IsValid(name + text))
            throw new ArgumentException("A record has a name and a text of at most 255 ASCII characters.");
        _records[name.TrimEnd('.')] = text;
    }

    /// <summary>Takes a record out.</summary>
    public void Remove(string name) => _records.TryRemove(name.TrimEnd('.'), out _);

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        await _stop.CancelAsync();
        _socket.Dispose();
        await _work;
        _stop.Dispose();
    }

    private async Task AnswerAsync()
    {
        while (!_stop.IsCancellationRequested)
        {
            try
            {
                var asked = await _socket.ReceiveAsync(_stop.Token);
                if (AnswerTo(asked.Buffer) is { } answer)
                    await _socket.SendAsync(answer, asked.RemoteEndPoint, _stop.Token);
            }
            catch (Exception fault)
                when (fault is OperationCanceledException or ObjectDisposedException or SocketException) { }
        }
    }

    private byte[]? AnswerTo(byte[] asked)
    {
        if (ReadName(asked) is not (var name, var end) || end + 4 > asked.Length)
            return null;
        var question = asked.AsSpan(Header, end + 4 - Header);
        var known = _records.TryGetValue(name, out var text);
        var has = known && BinaryPrimitives.ReadUInt16BigEndian(asked.AsSpan(end)) == Text;
        using var answer = new MemoryStream();
        answer.Write(asked, 0, 2);
        // An answer with authority; the name does not exist where nothing is known of it.
        answer.Write([0x84, known ? (byte)0 : (byte)3, 0, 1, 0, has ? (byte)1 : (byte)0, 0, 0, 0, 0]);
        answer.Write(question);
        if (has)
        {
            var bytes = Encoding.ASCII.GetBytes(text!);
            // The name of the question, TXT, IN, no time to keep it.
            answer.Write([0xc0, Header, 0, Text, 0, 1, 0, 0, 0, 0, 0, (byte)(bytes.Length + 1)]);
            answer.WriteByte((byte)bytes.Length);
            answer.Write(bytes);
        }
        return answer.ToArray();
    }

    private static (string Name, int End)? ReadName(byte[] asked)
    {
        var labels = new List<string>();
        for (var at = Header; at < asked.Length; )
        {
            var length = asked[at++];
            if (length == 0)
                return (string.Join('.', labels), at);
            if (length > 63 || at + length > asked.Length)
                return null;
            labels.Add(Encoding.ASCII.GetString(asked, at, length));
            at += length;
        }
        return null;
    }
}

using System.Diagnostics;
using System.Net;
using System.Net.Sockets;
using System.Text;
using Xunit;

namespace ComeAboard.Service.Tests.World;

/// <summary>A real name server of Debian's packages, of our own, on loopback: it answers for everything under <c>.example</c>.</summary>
public sealed class NameServer(int port) : IAsyncDisposable
{
    private const string Program = "/usr/sbin/nsd";

    private readonly DirectoryInfo _directory = Directory.CreateTempSubdirectory("aboard-dns-");
    private readonly Dictionary<string, string> _records = [];
    private Process? _server;
    private int _serial;
    private int _processes;

    public int Port { get; } = port;

    public async Task StartAsync()
    {
        Assert.SkipUnless(File.Exists(Program), "The package nsd is not installed.");
        var root = _directory.FullName;
        WriteZone();
        await File.WriteAllTextAsync(
            Path.Combine(root, "nsd.conf"),
            $"""
            server:
              ip-address: 127.0.0.1@{Port}
              username: ""
              chroot: ""
              zonesdir: "{root}"
              pidfile: "{root}/nsd.pid"
              xfrdfile: "{root}/xfrd.state"
              zonelistfile: "{root}/zone.list"
              cookie-secret-file: "{root}/cookies"
              xfrdir: "{root}"
              database: ""
              server-count: 1
            remote-control:
              control-enable: no
            zone:
              name: "example."
              zonefile: "example.zone"
            """
        );
        _server = Process.Start(
            new ProcessStartInfo(Program, ["-d", "-c", Path.Combine(root, "nsd.conf")])
            {
                RedirectStandardError = true,
                RedirectStandardOutput = true,
            }
        )!;
        _server.ErrorDataReceived += (_, _) => { };
        _server.OutputDataReceived += (_, _) => { };
        _server.BeginErrorReadLine();
        _server.BeginOutputReadLine();
        await Patience.UntilAsync(() => SerialAsync(), serial => serial == _serial);
        _processes = (await ChildrenAsync(_server.Id)).Count;
    }

    /// <summary>Puts a TXT record in, or takes it out where there is no text; answers once it is served.</summary>
    public async Task PutAsync(string name, string? text)
    {
        if (text is null)
            _records.Remove(name);
        else
            _records[name] = text;
        WriteZone();
        await SignalAsync("HUP");
        await Patience.UntilAsync(() => SerialAsync(), serial => serial == _serial);
        // Those that serve what was before go a moment after those that serve what is have come.
        await Patience.UntilAsync(() => ChildrenAsync(_server!.Id), children => children.Count == _processes);
    }

    /// <summary>Stops all its processes where they are, or has them go on.</summary>
    public async Task FreezeAsync(bool isFrozen)
    {
        foreach (var child in await ChildrenAsync(_server!.Id))
            await SignalAsync(isFrozen ? "STOP" : "CONT", child);
        await SignalAsync(isFrozen ? "STOP" : "CONT");
    }

    public async ValueTask DisposeAsync()
    {
        if (_server is { HasExited: false })
        {
            await FreezeAsync(false);
            await SignalAsync("TERM");
            await _server.WaitForExitAsync();
        }
        _server?.Dispose();
        _directory.Delete(true);
    }

    private void WriteZone()
    {
        _serial++;
        var zone = new StringBuilder("$ORIGIN example.\n$TTL 0\n");
        zone.Append(
            $"@ IN SOA ns.example. hostmaster.example. {_serial} 3600 600 86400 0\n@ IN NS ns.example.\n"
        );
        zone.Append("ns IN A 127.0.0.1\n");
        foreach (var (name, text) in _records)
            zone.Append($"{name}. IN TXT \"{text}\"\n");
        File.WriteAllText(Path.Combine(_directory.FullName, "example.zone"), zone.ToString());
    }

    /// <summary>The serial of the zone it serves; -1 while it does not answer.</summary>
    private async Task<int> SerialAsync()
    {
        try
        {
            var client = new DnsClient.LookupClient(
                new DnsClient.LookupClientOptions(new IPEndPoint(IPAddress.Loopback, Port))
                {
                    UseCache = false,
                    Timeout = TimeSpan.FromSeconds(1),
                    Retries = 0,
                }
            );
            var answer = await client.QueryAsync("example.", DnsClient.QueryType.SOA);
            return (int)(answer.Answers.OfType<DnsClient.Protocol.SoaRecord>().FirstOrDefault()?.Serial ?? 0);
        }
        catch (Exception fault) when (fault is DnsClient.DnsResponseException or SocketException)
        {
            return -1;
        }
    }

    private static async Task<IReadOnlyList<int>> ChildrenAsync(int parent)
    {
        using var asked = Process.Start(
            new ProcessStartInfo("ps", ["-o", "pid=", "--ppid", parent.ToString()])
            {
                RedirectStandardOutput = true,
            }
        )!;
        var children = new List<int>();
        foreach (
            var line in (await asked.StandardOutput.ReadToEndAsync()).Split(
                '\n',
                StringSplitOptions.RemoveEmptyEntries
            )
        )
        {
            var child = int.Parse(line.Trim());
            children.Add(child);
            children.AddRange(await ChildrenAsync(child));
        }
        return children;
    }

    private Task SignalAsync(string signal) => SignalAsync(signal, _server!.Id);

    private static async Task SignalAsync(string signal, int process)
    {
        using var kill = Process.Start("kill", ["-" + signal, process.ToString()])!;
        await kill.WaitForExitAsync();
    }
}

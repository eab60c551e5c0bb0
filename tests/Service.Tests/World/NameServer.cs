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
        _processes = ChildrenOf(_server.Id).Count;
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
        await Patience.UntilAsync(
            () => Task.FromResult(ChildrenOf(_server!.Id)),
            children => children.Count == _processes
        );
    }

    /// <summary>Stops all its processes where they are, or has them go on.</summary>
    public async Task FreezeAsync(bool isFrozen)
    {
        foreach (var child in ChildrenOf(_server!.Id))
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

    /// <summary>All processes that come from one, as they are at this moment. Looked up here: to start a program for each look costs far more.</summary>
    private static HashSet<int> ChildrenOf(int parent)
    {
        var parents = new Dictionary<int, int>();
        foreach (var place in Directory.EnumerateDirectories("/proc"))
        {
            if (!int.TryParse(Path.GetFileName(place), out var process))
                continue;
            try
            {
                // Behind the name, which may hold anything, stand the state and the parent.
                var stat = File.ReadAllText(Path.Combine(place, "stat"));
                parents[process] = int.Parse(stat[(stat.LastIndexOf(')') + 2)..].Split(' ')[1]);
            }
            catch (IOException)
            {
                // It has ended meanwhile.
            }
        }
        var children = new HashSet<int>();
        while (
            parents
                .Where(one =>
                    (one.Value == parent || children.Contains(one.Value)) && !children.Contains(one.Key)
                )
                .Select(one => one.Key)
                .ToList()
                is { Count: > 0 } more
        )
            children.UnionWith(more);
        return children;
    }

    private Task SignalAsync(string signal) => SignalAsync(signal, _server!.Id);

    private static async Task SignalAsync(string signal, int process)
    {
        using var kill = Process.Start("kill", ["-" + signal, process.ToString()])!;
        await kill.WaitForExitAsync();
    }
}

using System.Diagnostics;
using System.Net;
using System.Net.Sockets;
using System.Text;
using ComeAboard.Standins;
using Xunit;

namespace ComeAboard.Service.Tests.World;

/// <summary>A real directory of Debian's packages, of our own, on loopback, with a certificate of an authority of its own.</summary>
public sealed class DirectoryServer : IAsyncDisposable
{
    public const string Base = "ou=people,o=harbour";
    public const string Reader = "cn=reader,o=harbour";

    /// <summary>An entry whose answers are cut after a hundred.</summary>
    public const string Bounded = "cn=bounded,o=harbour";
    public const string Secret = "low water";

    /// <summary>An entry that may write.</summary>
    public const string Keeper = "cn=keeper,o=harbour";

    /// <summary>A group, with that entry in it.</summary>
    public const string Group = "Readers";

    private const string Program = "/usr/sbin/slapd";

    private readonly DirectoryInfo _directory = Directory.CreateTempSubdirectory("aboard-ldap-");
    private readonly (int Plain, int Tls) _ports = (Ports.Free(), Ports.Free());
    private Process? _server;

    public string Url => $"ldaps://127.0.0.1:{_ports.Tls}";
    public string PlainUrl => $"ldap://127.0.0.1:{_ports.Plain}";
    public string Certificate { get; private set; } = "";

    /// <summary>Starts it with some people.</summary>
    public static async Task<DirectoryServer> StartAsync(IEnumerable<string> people)
    {
        Assert.SkipUnless(File.Exists(Program), "The package slapd is not installed.");
        var server = new DirectoryServer();
        server.Certificate = Vouching.Write(server._directory.FullName);
        var root = server._directory.FullName;
        Directory.CreateDirectory(Path.Combine(root, "data"));
        await File.WriteAllTextAsync(
            Path.Combine(root, "slapd.conf"),
            $"""
            include /etc/ldap/schema/core.schema
            include /etc/ldap/schema/cosine.schema
            include /etc/ldap/schema/inetorgperson.schema
            modulepath /usr/lib/ldap
            moduleload back_mdb
            moduleload ppolicy
            pidfile {root}/slapd.pid
            TLSCertificateFile {root}/server.pem
            TLSCertificateKeyFile {root}/server.key
            database mdb
            maxsize 67108864
            suffix "o=harbour"
            directory {root}/data
            overlay ppolicy
            limits dn.exact="{Reader}" size=unlimited
            limits dn.exact="{Bounded}" size=100
            access to attrs=userPassword by dn.exact="{Keeper}" write by * auth
            access to * by dn.exact="{Keeper}" write by users read
            """
        );
        await File.WriteAllTextAsync(Path.Combine(root, "seed.ldif"), Seed(people));
        await RunAsync("/usr/sbin/slapadd", "-f", $"{root}/slapd.conf", "-l", $"{root}/seed.ldif");
        await server.StartAgainAsync();
        return server;
    }

    public async Task StartAgainAsync()
    {
        _server = Process.Start(
            new ProcessStartInfo(
                Program,
                [
                    "-f",
                    Path.Combine(_directory.FullName, "slapd.conf"),
                    "-h",
                    $"{PlainUrl}/ {Url}/",
                    "-d",
                    "0",
                ]
            )
        )!;
        await Patience.UntilAsync(AnswersAsync, answers => answers);
    }

    /// <summary>Everything it holds, as LDIF without folded lines.</summary>
    public async Task<string> DumpAsync()
    {
        using var process = Process.Start(
            new ProcessStartInfo(
                "/usr/sbin/slapcat",
                ["-f", Path.Combine(_directory.FullName, "slapd.conf"), "-o", "ldif-wrap=no"]
            )
            {
                RedirectStandardOutput = true,
            }
        )!;
        var ldif = await process.StandardOutput.ReadToEndAsync();
        await process.WaitForExitAsync();
        return ldif;
    }

    public async Task StopAsync()
    {
        _server!.Kill();
        await _server.WaitForExitAsync();
    }

    /// <summary>Lets it go on or stand still, as the operating system can.</summary>
    public Task SignalAsync(string signal) => RunAsync("/bin/kill", "-" + signal, _server!.Id.ToString());

    public async ValueTask DisposeAsync()
    {
        if (_server is { HasExited: false })
        {
            await SignalAsync("CONT");
            await StopAsync();
        }
        _server?.Dispose();
        _directory.Delete(recursive: true);
    }

    private async Task<bool> AnswersAsync()
    {
        try
        {
            using var socket = new TcpClient();
            await socket.ConnectAsync(IPAddress.Loopback, _ports.Tls);
            return true;
        }
        catch (SocketException)
        {
            return false;
        }
    }

    private static string Seed(IEnumerable<string> people)
    {
        var ldif = new StringBuilder(
            $"""
            dn: o=harbour
            objectClass: organization
            o: harbour

            dn: {Base}
            objectClass: organizationalUnit
            ou: people


            """
        );
        foreach (var name in (string[])["reader", "bounded", "keeper"])
            ldif.Append(
                $"dn: cn={name},o=harbour\nobjectClass: organizationalRole\nobjectClass: simpleSecurityObject\ncn: {name}\nuserPassword: {Secret}\n\n"
            );
        ldif.Append(
            $"dn: cn={Group},o=harbour\nobjectClass: groupOfNames\ncn: {Group}\nmember: {Keeper}\n\n"
        );
        foreach (var (name, at) in people.Select((name, at) => (name, at)))
            ldif.Append(
                $"dn: uid=p{at},{Base}\nobjectClass: inetOrgPerson\nuid: p{at}\ncn: {name}\nsn: {name[(name.LastIndexOf(' ') + 1)..]}\nmail: p{at}@harbour.example\ntitle: Pilot\n\n"
            );
        return ldif.ToString();
    }

    private static async Task RunAsync(string program, params string[] arguments)
    {
        using var process = Process.Start(
            new ProcessStartInfo(program, arguments) { RedirectStandardError = true }
        )!;
        var said = await process.StandardError.ReadToEndAsync();
        await process.WaitForExitAsync();
        Assert.True(process.ExitCode == 0, said);
    }
}

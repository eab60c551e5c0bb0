using System.Diagnostics;
using System.Net.Sockets;
using ComeAboard.Standins;
using Xunit;

namespace ComeAboard.Service.Tests.World;

/// <summary>
/// A real mail server and a real IMAP server of Debian's packages, of our own, on loopback, in a temporary directory.
/// It knows the mailboxes <c>ines</c> and <c>returns</c>; every other address it takes and then sends back.
/// </summary>
public sealed class MailHouse : IAsyncDisposable
{
    public const string Password = "tide";
    public const string Domain = "mail-house.example";

    private readonly DirectoryInfo _directory = Directory.CreateTempSubdirectory("aboard-mail-");
    private readonly List<Process> _servers = [];

    private MailHouse() { }

    public int SmtpPort { get; } = Ports.Free();
    public int ImapPort { get; } = Ports.Free();

    /// <summary>Why the servers cannot run here; null when they can.</summary>
    public static string? Missing =>
        !File.Exists("/usr/sbin/exim4") || !File.Exists("/usr/sbin/dovecot")
            ? "The packages exim4-daemon-light and dovecot-imapd are not installed."
        : Environment.UserName != "root" ? "The mail servers change their user, which only root may."
        : null;

    public static async Task<MailHouse> OpenAsync()
    {
        var house = new MailHouse();
        var root = house._directory.FullName;
        foreach (var name in new[] { "spool", "log", "mail", "home", "run" })
            house._directory.CreateSubdirectory(name);
        await File.WriteAllTextAsync(Path.Combine(root, "exim.conf"), house.EximSettings(root));
        await File.WriteAllTextAsync(Path.Combine(root, "dovecot.conf"), house.DovecotSettings(root));
        File.SetUnixFileMode(root, (UnixFileMode)0b111_101_101);
        await RunAsync(
            "chown",
            "-R",
            "Debian-exim:",
            $"{root}/spool",
            $"{root}/log",
            $"{root}/mail",
            $"{root}/home"
        );
        house.Start("exim4", "-C", Path.Combine(root, "exim.conf"), "-bdf", "-q1m");
        house.Start("dovecot", "-F", "-c", Path.Combine(root, "dovecot.conf"));
        await ListeningAsync(house.SmtpPort);
        await ListeningAsync(house.ImapPort);
        return house;
    }

    /// <summary>The mails in a mailbox, as they lie there.</summary>
    public IReadOnlyList<string> MailsOf(string mailbox)
    {
        var places = new[] { "new", "cur" }.Select(place =>
            Path.Combine(_directory.FullName, "mail", mailbox, place)
        );
        return [.. places.Where(Directory.Exists).SelectMany(Directory.GetFiles).Select(File.ReadAllText)];
    }

    public async ValueTask DisposeAsync()
    {
        foreach (var server in _servers)
        {
            using var end = Process.Start("kill", [server.Id.ToString()]);
            await end.WaitForExitAsync();
            await server.WaitForExitAsync();
            server.Dispose();
        }
        _directory.Delete(true);
    }

    private string EximSettings(string root) =>
        $"""
            primary_hostname = {Domain}
            spool_directory = {root}/spool
            log_file_path = {root}/log/%slog
            pid_file_path = {root}/spool/exim.pid
            local_interfaces = 127.0.0.1
            daemon_smtp_ports = {SmtpPort}
            exim_user = Debian-exim
            exim_group = Debian-exim
            keep_environment =
            tls_advertise_hosts =
            dsn_advertise_hosts = *
            acl_smtp_rcpt = accept
            qualify_domain = {Domain}
            begin routers
            known:
              driver = accept
              local_parts = ines : returns
              transport = mailboxes
            unknown:
              driver = redirect
              allow_fail
              data = :fail: 550 5.1.1 no such mailbox in this house
            begin transports
            mailboxes:
              driver = appendfile
              directory = {root}/mail/$local_part_data
              maildir_format
              create_directory
              user = Debian-exim
              group = Debian-exim

            """;

    private string DovecotSettings(string root) =>
        $$"""
            protocols = imap
            listen = 127.0.0.1
            base_dir = {{root}}/run
            log_path = {{root}}/dovecot.log
            ssl = no
            disable_plaintext_auth = no
            mail_location = maildir:{{root}}/mail/%n
            mail_uid = Debian-exim
            mail_gid = Debian-exim
            first_valid_uid = 1
            service imap-login {
              inet_listener imap {
                port = {{ImapPort}}
              }
              inet_listener imaps {
                port = 0
              }
            }
            passdb {
              driver = static
              args = password={{Password}}
            }
            userdb {
              driver = static
              args = uid=Debian-exim gid=Debian-exim home={{root}}/home/%n
            }

            """;

    private void Start(string program, params string[] arguments) =>
        _servers.Add(
            Process.Start(
                new ProcessStartInfo("/usr/sbin/" + program, arguments) { RedirectStandardError = true }
            )!
        );

    private static async Task ListeningAsync(int port)
    {
        for (var tries = 0; tries < 100; tries++)
        {
            try
            {
                using var client = new TcpClient();
                await client.ConnectAsync("127.0.0.1", port);
                return;
            }
            catch (SocketException)
            {
                await Task.Delay(100);
            }
        }
        Assert.Fail($"Nothing listens on port {port}.");
    }

    private static async Task RunAsync(string program, params string[] arguments)
    {
        using var process = Process.Start(program, arguments);
        await process.WaitForExitAsync();
        Assert.Equal(0, process.ExitCode);
    }
}

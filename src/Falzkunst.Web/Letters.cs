using System.Net;
using System.Net.Mail;
using Microsoft.Extensions.Options;
using Serilog;

namespace Falzkunst.Web;

/// <summary>The mail server, from the configuration's section "Smtp" (Smtp__Host and so on in the environment). None is assumed.</summary>
public sealed class SmtpSettings
{
    public string Host { get; set; } = "";

    public int Port { get; set; } = 587;

    /// <summary>Whether the line is encrypted (STARTTLS).</summary>
    public bool Tls { get; set; } = true;

    public string User { get; set; } = "";

    public string Password { get; set; } = "";

    /// <summary>The sender's address.</summary>
    public string From { get; set; } = "falzkunst@localhost";
}

/// <summary>Sends mails, where there is a server for them.</summary>
public sealed class Letters(IOptions<SmtpSettings> settings)
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(10);

    public bool CanSend => settings.Value.Host.Length > 0;

    /// <returns>Whether the server took it. Why not is written into the log.</returns>
    public async Task<bool> Send(string to, string subject, string text)
    {
        if (!CanSend) return false;
        var s = settings.Value;
        try
        {
            using var client = new SmtpClient(s.Host, s.Port) { EnableSsl = s.Tls };
            if (s.User.Length > 0) client.Credentials = new NetworkCredential(s.User, s.Password);
            // A subject is one line.
            using var mail = new MailMessage(s.From, to, string.Concat(subject.Select(c => char.IsControl(c) ? ' ' : c)), text);
            using var soon = new CancellationTokenSource(Patience);
            await client.SendMailAsync(mail, soon.Token);
            return true;
        }
        catch (Exception e) when (e is SmtpException or IOException or OperationCanceledException or FormatException or InvalidOperationException)
        {
            Log.Warning("A mail could not be sent by {Host}: {Why}", s.Host, e.Message);
            return false;
        }
    }
}

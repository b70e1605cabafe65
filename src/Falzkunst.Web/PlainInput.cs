namespace Falzkunst.Web;

/// <summary>
/// What no form of ours sends is answered as that, in one place: a character that no text has (NUL), a line break where there is one line, more fields than
/// there can be, a form that is none.
/// </summary>
public sealed class PlainInput(RequestDelegate next)
{
    private const int MostFields = 1000, MostFiles = 1000;

    public async Task InvokeAsync(HttpContext context)
    {
        if (await Fault(context.Request, context.RequestAborted) is { } status)
        {
            // What is said is a page of its own, which must not read the form again.
            (context.Request.Body, context.Request.ContentType, context.Request.ContentLength) = (Stream.Null, null, 0);
            context.Request.Method = HttpMethods.Get;
            context.Response.StatusCode = status;
            return;
        }

        await next(context);
    }

    private static async Task<int?> Fault(HttpRequest request, CancellationToken cancel)
    {
        if (request.Query.Any(q => HasNul(q.Key) || q.Value.Any(HasNul))) return StatusCodes.Status400BadRequest;
        if (!request.HasFormContentType) return null;
        try
        {
            var form = await request.ReadFormAsync(cancel);
            if (form.Count > MostFields || form.Files.Count > MostFiles) return StatusCodes.Status413PayloadTooLarge;
            return form.Any(f => HasNul(f.Key) || f.Value.Any(f.Key is ManyLines ? HasNul : HasControl))
                || form.Files.Any(f => HasNul(f.FileName) || HasNul(f.Name))
                ? StatusCodes.Status400BadRequest : null;
        }
        catch (BadHttpRequestException e)
        {
            return e.StatusCode;
        }
        catch (InvalidDataException)
        {
            // Its limits are far above what our pages send.
            return StatusCodes.Status413PayloadTooLarge;
        }
        catch (IOException)
        {
            // It ends before it should.
            return StatusCodes.Status400BadRequest;
        }
    }

    /// <summary>The only field of many lines: no other has a line break, or anything else that is not seen.</summary>
    private const string ManyLines = "text";

    private static bool HasControl(string? text) => text is not null && text.Any(c => char.IsControl(c) && c != '\t');

    private static bool HasNul(string? text) => text is not null && text.Contains('\0', StringComparison.Ordinal);
}

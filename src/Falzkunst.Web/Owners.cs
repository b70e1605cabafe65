using System.Reflection;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;

namespace Falzkunst.Web;

/// <summary>What only an owner of the workshop may do: a page as a whole, or one thing that is done on it.</summary>
[AttributeUsage(AttributeTargets.Class | AttributeTargets.Method)]
public sealed class OwnersOnlyAttribute : Attribute
{
    /// <summary>The role, and the policy that asks for it.</summary>
    public const string Owner = "owner";
}

/// <summary>Refuses makers what is only for owners, before anything is done.</summary>
public sealed class OwnersOnlyFilter : IAsyncPageFilter
{
    public Task OnPageHandlerSelectionAsync(PageHandlerSelectedContext context) => Task.CompletedTask;

    public async Task OnPageHandlerExecutionAsync(PageHandlerExecutingContext context, PageHandlerExecutionDelegate next)
    {
        var isFor = context.HandlerInstance.GetType().GetCustomAttribute<OwnersOnlyAttribute>()
            ?? context.HandlerMethod?.MethodInfo.GetCustomAttribute<OwnersOnlyAttribute>();
        if (isFor is not null && !context.HttpContext.User.IsInRole(OwnersOnlyAttribute.Owner)) context.Result = new ForbidResult();
        else await next();
    }
}

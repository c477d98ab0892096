import { Injectable, NotFoundException, Param, type PipeTransform } from '@nestjs/common';

/** What ids of projects, footage, renders and shapes can be. */
const ID = /^[\w-]{1,64}$/;

@Injectable()
class IdPipe implements PipeTransform<string, string> {
  transform(value: string): string {
    if (ID.test(value)) return value;
    throw new NotFoundException('There is nothing with this id.');
  }
}

/** The id in an address. One that cannot be anybody's is answered as one that is nobody's, before anything looks for it. */
export const Id = (name = 'id'): ParameterDecorator => Param(name, IdPipe);

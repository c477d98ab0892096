import { Body, Controller, Delete, Get, Put } from '@nestjs/common';
import { InvalidInput } from '@idle-bend/core/foundation';
import { readShape, type SavedShape } from '@idle-bend/core/shape';
import { ShapeRow } from '../storage/rows.js';
import { Id } from '../trust/id.js';

/** The editor's own shapes, shared by all projects of this server. */
@Controller('api/shapes')
export class ShapesController {
  @Get()
  async list(): Promise<SavedShape[]> {
    return (await ShapeRow.findAll({ order: [['createdAt', 'ASC']] })).map((row) =>
      readShape(JSON.parse(row.shape), 'shape'),
    );
  }

  @Put(':id')
  async keep(@Id() id: string, @Body() body: unknown): Promise<SavedShape> {
    const shape = readShape(body, 'shape');
    if (shape.id !== id) throw new InvalidInput('shape.id', `is "${shape.id}", not "${id}"`);
    await ShapeRow.upsert({ id, shape: JSON.stringify(shape) });
    return shape;
  }

  @Delete(':id')
  async remove(@Id() id: string) {
    await ShapeRow.destroy({ where: { id } });
    return {};
  }
}
